import { problemOf } from "../api/client";
import { t, term } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { useSettleWay } from "./calls";
import type { Part } from "./part";

const stands = {
	title: {
		first: term("A way into a call stands in the title."),
		second: term("A second way in stands in the title."),
	},
	text: { first: term("A way into a call stands in the text."), second: term("A second way in stands in the text.") },
};

/** Other ways into a call in the words of the sheet, each settled at one press. */
export function OtherWays({ part: { sheet, store }, field }: { part: Part; field: "title" | "text" }) {
	const settle = useSettleWay(sheet.id);
	const ways = sheet.link.ways.filter((w) => w.field === field);
	const [way] = ways;
	if (!way) return null;
	const press = async (does: "out" | "over" | "none") => {
		if (await store.save()) settle.mutate({ field, address: way.address, what: does });
	};
	const second = !!sheet.card;
	const tone = second ? "border-l-brick bg-brick-wash" : "border-l-honey bg-honey-wash";
	return (
		<div role="status" className={`mt-1 rounded-r-[4px] border-l-4 px-2.5 py-1.5 text-[13px] ${tone}`}>
			<b className={`font-[650] ${second ? "text-brick" : ""}`}>{t(stands[field][second ? "second" : "first"])}</b>{" "}
			{second
				? t("People would end up in two places.")
				: t("As the call of the meeting it stands in the invitation and in every calendar.")}
			<span className="block break-all text-small">
				{way.address}
				{ways.length > 1 && <span className="text-quiet"> {t("and %s more", ways.length - 1)}</span>}
			</span>
			<span className="flex flex-wrap gap-x-3">
				<Button look="bare" busy={settle.isPending} onClick={() => press("out")}>
					{t("Take it out")}
				</Button>
				<Button look="bare" busy={settle.isPending} onClick={() => press("over")}>
					{second ? t("Use this one instead of %s", sheet.card?.name || t("the other")) : t("Use it as the call")}
				</Button>
				<Button look="bare" busy={settle.isPending} onClick={() => press("none")}>
					{t("It is no join link")}
				</Button>
			</span>
			{settle.error && <span className="block text-brick text-small">{problemOf(settle.error).detail}</span>}
		</div>
	);
}
