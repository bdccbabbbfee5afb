import { problemOf, type Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { Button, Note } from "../ui/kit";
import { useGiveAddress, useWithdrawAddress } from "./deeds";

/** An address of the meeting that can be put into any mail; it shows what it is, and not who is invited. */
export function ShortAddress({ m }: { m: Schemas["Meeting"] }) {
	const copy = useCopy();
	const give = useGiveAddress(m.id);
	const withdraw = useWithdrawAddress(m.id);
	const error = give.error ?? withdraw.error;
	return (
		<section aria-label={t("Short address")} className="rounded-[4px] border border-rule bg-sheet px-3.5 py-3">
			<h2 className="text-[15px]">{t("Short address")}</h2>
			{m.address ? (
				<>
					<p className="mt-1 break-all">
						<a href={m.address.url} className="underline underline-offset-3">
							{m.address.url.replace(/^https?:\/\//, "")}
						</a>
					</p>
					<label className="mt-1.5 flex items-center gap-1.5 text-small">
						<input
							type="checkbox"
							checked={m.address.asks}
							disabled={give.isPending}
							onChange={(e) => give.mutate(e.target.checked)}
						/>
						{t("whoever opens it can ask to be invited")}
					</label>
					<div className="mt-2 flex flex-wrap gap-2">
						<Button onClick={() => copy(m.address?.url ?? "", t("Short address"))}>{t("Copy it")}</Button>
						<Button busy={withdraw.isPending} onClick={() => withdraw.mutate(undefined)}>
							{t("Withdraw it")}
						</Button>
					</div>
				</>
			) : (
				<>
					<p className="mt-1 mb-2 text-quiet text-small">
						{t("For any mail or page: it shows when, where and how to join, and nobody who is invited.")}
					</p>
					<Button busy={give.isPending} onClick={() => give.mutate(false)}>
						{t("Make one")}
					</Button>
				</>
			)}
			{error && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(error).detail}</Note>
				</div>
			)}
		</section>
	);
}
