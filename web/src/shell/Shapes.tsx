import { CalendarDays, Eye } from "lucide-react";
import { type Term, t, term } from "../tongue/tongue";
import { type Group, Legend } from "./Legend";

const groups: [Term, [string, Term][]][] = [
	[
		term("Your meetings"),
		[
			["mark-mine", term("yours")],
			["mark-broken", term("yours, somebody was not reached")],
			["mark-unanswered", term("you are asked, and have not answered")],
			["mark-accepted", term("you accepted")],
			["mark-maybe", term("you answered maybe")],
			["mark-declined", term("you declined")],
		],
	],
	[
		term("Other people and rooms"),
		[
			["mark-busy", term("busy, or the room is taken")],
			["mark-busy-maybe", term("maybe busy")],
			["mark-leave", term("on leave")],
			["mark-off", term("outside working hours")],
		],
	],
];

/** What stands in thin rows below one's meetings; nothing of it is invited or booked. */
const beside: Group = [
	term("Below your meetings, thin"),
	[
		[<Eye key="watched" aria-hidden size={14} />, term("the time of somebody watched: looked at, not invited")],
		[<CalendarDays key="entry" aria-hidden size={14} />, term("an entry of another calendar of yours")],
		[
			<i key="only" aria-hidden className="mark-declined block h-[5px] rounded-[2px]" />,
			term("the same, shown only: it makes nobody busy"),
		],
	],
];

const shown = groups.map(
	([where, shapes]): Group => [
		where,
		shapes.map(([mark, words]) => [
			<i key={mark} aria-hidden className={`block rounded-[2px] ${mark === "mark-off" ? "h-5" : "h-2.5"} ${mark}`} />,
			words,
		]),
	],
);

/** What the marks of time mean. */
export const Shapes = ({ onClose }: { onClose: () => void }) => (
	<Legend title={t("What the shapes mean")} groups={[...shown, beside]} left="96px" onClose={onClose} />
);
