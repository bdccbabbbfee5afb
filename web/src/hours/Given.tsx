import { problemOf, type Schemas } from "../api/client";
import { useCopy } from "../ui/copy";
import { Button, Note } from "../ui/kit";
import { useGive, useWithdraw } from "./deeds";

/** The secret address under which others get one's busy times. */
export function Given({ page }: { page: Schemas["HoursPage"] }) {
	const give = useGive();
	const withdraw = useWithdraw();
	const copy = useCopy();
	const problem = give.error ?? withdraw.error;
	const url = page.feedUrl;
	return (
		<section className="mt-5">
			<h2 className="text-[19px]">Given to others</h2>
			{problem && <Note tone="brick">{problemOf(problem).detail}</Note>}
			{!url && (
				<p className="text-body">
					Nobody outside gets your busy times.{" "}
					<Button look="bare" busy={give.isPending} onClick={() => give.mutate(false)}>
						Make a secret address
					</Button>
				</p>
			)}
			{url && (
				<>
					<p className="text-body">
						Busy times for outside:{" "}
						<Button look="bare" onClick={() => copy(url, "The address as a calendar")}>
							copy address
						</Button>{" "}
						·{" "}
						<Button look="bare" onClick={() => copy(url.replace(/\.ics$/, ".ifb"), "The address of busy times alone")}>
							busy times alone
						</Button>{" "}
						·{" "}
						<Button look="bare" busy={withdraw.isPending} onClick={() => withdraw.mutate()}>
							withdraw
						</Button>
					</p>
					<label className="flex items-center gap-1.5 text-body">
						<input
							type="checkbox"
							className="accent-fig"
							checked={page.feedTitles}
							onChange={(e) => give.mutate(e.target.checked)}
						/>
						with the titles of meetings that are not private
					</label>
				</>
			)}
		</section>
	);
}
