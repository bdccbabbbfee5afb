import { EyeOff, Link2, Repeat } from "lucide-react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { percent, rowWords, type Scale } from "../timeline/scale";
import { t } from "../tongue/tongue";
import { Plate } from "../ui/kit";
import { spoken } from "./spoken";
import { useMove } from "./useMove";

type Props = {
	meeting: Schemas["WeekMeeting"];
	scale: Scale;
	rowWidth: number;
	zone: string;
	at: { left: number; width: number };
	top: number;
	shift: number;
	chosen: boolean;
	onChoose: (byKey: boolean) => void;
};

const looks: Partial<Record<Schemas["WeekMeeting"]["standing"], { flag?: string; time?: string; title?: string }>> = {
	unanswered: { time: "text-honey" },
	broken: { flag: "bg-brick-wash text-brick pl-1" },
	declined: { flag: "text-quiet", title: "line-through" },
};

/** A slim bar with its words as a flag that may run past its end. */
export function MeetingMark({ meeting: m, scale, rowWidth, zone, at, top, shift, chosen, onChoose }: Props) {
	const navigate = useNavigate();
	const look = looks[m.standing];
	const drag = useMove(m, scale, rowWidth);
	return (
		<button
			type="button"
			aria-pressed={chosen}
			title={
				drag.mine ? t("Click to look, double-click to open, drag to move") : t("Click to look, double-click to open")
			}
			data-mark={`${m.id} ${m.on}`}
			onClick={(e) => drag.still() && onChoose(e.detail === 0)}
			onDoubleClick={() => navigate(`/meeting/${m.id}${m.series ? `?date=${m.on}` : ""}`)}
			{...drag.handlers}
			className={`absolute block rounded-[2px] text-left outline-offset-1 ${drag.by ? "pointer-events-none z-10 opacity-80" : ""}`}
			style={{
				left: at.left === 1 ? "calc(100% - 6px)" : percent(at.left),
				width: `calc(${percent(at.width)} - 2px)`,
				top,
				minWidth: 4,
				transform: drag.by ? `translate(${drag.by.x}px, ${drag.by.y}px)` : undefined,
			}}
		>
			<i className={`block h-2 rounded-[2px] mark-${m.standing}`} />
			<span
				className={`relative mt-px inline-flex h-5 items-center gap-[5px] whitespace-nowrap rounded-[2px] bg-sheet pr-1 pl-px text-[13px] leading-5 ${look?.flag ?? ""} ${chosen ? "outline-2 outline-fig outline-offset-1" : ""}`}
				style={{ marginLeft: -shift, maxWidth: rowWidth }}
			>
				<b className={`font-[650] ${look?.time ?? ""}`}>{drag.by?.words ?? rowWords(m.start, m.end, scale)}</b>
				<span className={`min-w-0 truncate ${look?.title ?? ""}`}>{m.title}</span>
				{m.standing === "broken" && <span>· {t("not delivered")}</span>}
				{m.room && <Plate small>{m.room}</Plate>}
				{m.link && <Link2 aria-hidden size={12} className="text-moss" />}
				{m.series && <Repeat aria-hidden size={12} className="text-quiet" />}
				{m.private && <EyeOff aria-hidden size={12} className="text-quiet" />}
				<span className="sr-only">{spoken(m, zone)}</span>
			</span>
		</button>
	);
}
