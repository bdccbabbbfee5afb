import { problemOf, type Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { FeedLinks } from "../ui/FeedLinks";
import { Button, Note } from "../ui/kit";
import { useGive, useWithdraw } from "./deeds";

/** The secret address under which others get one's busy times. */
export function Given({ page }: { page: Schemas["HoursPage"] }) {
	const give = useGive();
	const withdraw = useWithdraw();
	const problem = give.error ?? withdraw.error;
	const url = page.feedUrl;
	return (
		<section className="mt-5">
			<h2 className="text-[19px]">{t("Given to others")}</h2>
			{problem && <Note tone="brick">{problemOf(problem).detail}</Note>}
			{!url && (
				<p className="text-body">
					{t("Nobody outside gets your busy times.")}{" "}
					<Button look="bare" busy={give.isPending} onClick={() => give.mutate(false)}>
						{t("Make a secret address")}
					</Button>
				</p>
			)}
			{url && (
				<>
					<p className="text-body">
						{t("Busy times for outside:")}{" "}
						<FeedLinks url={url} busy={withdraw.isPending} withdraw={() => withdraw.mutate()} />
					</p>
					<label className="flex items-center gap-1.5 text-body">
						<input
							type="checkbox"
							className="accent-fig"
							checked={page.feedTitles}
							onChange={(e) => give.mutate(e.target.checked)}
						/>
						{t("with the titles of meetings that are not private")}
					</label>
				</>
			)}
		</section>
	);
}
