import { problemOf } from "../api/client";
import { Button } from "../ui/kit";
import { useSettleWay } from "./calls";
import type { Part } from "./part";

const what = { title: "title", text: "text" } as const;

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
			<b className={`font-[650] ${second ? "text-brick" : ""}`}>
				{second ? `A second way in stands in the ${what[field]}.` : `A way into a call stands in the ${what[field]}.`}
			</b>{" "}
			{second
				? "People would end up in two places."
				: "As the call of the meeting it stands in the invitation and in every calendar."}
			<span className="block break-all text-small">
				{way.address}
				{ways.length > 1 && <span className="text-quiet"> and {ways.length - 1} more</span>}
			</span>
			<span className="flex flex-wrap gap-x-3">
				<Button look="bare" busy={settle.isPending} onClick={() => press("out")}>
					Take it out
				</Button>
				<Button look="bare" busy={settle.isPending} onClick={() => press("over")}>
					{second ? `Use this one instead of ${sheet.card?.name || "the other"}` : "Use it as the call"}
				</Button>
				<Button look="bare" busy={settle.isPending} onClick={() => press("none")}>
					It is no join link
				</Button>
			</span>
			{settle.error && <span className="block text-brick text-small">{problemOf(settle.error).detail}</span>}
		</div>
	);
}
