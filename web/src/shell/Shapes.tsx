import { CalendarDays, Eye } from "lucide-react";
import type { ReactNode } from "react";
import { Legend } from "./Legend";

const groups: [string, [string, string][]][] = [
	[
		"Your meetings",
		[
			["mark-mine", "yours"],
			["mark-broken", "yours, somebody was not reached"],
			["mark-unanswered", "you are asked, and have not answered"],
			["mark-accepted", "you accepted"],
			["mark-maybe", "you answered maybe"],
			["mark-declined", "you declined"],
		],
	],
	[
		"Other people and rooms",
		[
			["mark-busy", "busy, or the room is taken"],
			["mark-busy-maybe", "maybe busy"],
			["mark-leave", "on leave"],
			["mark-off", "outside working hours"],
		],
	],
];

/** What stands in thin rows below one's meetings; nothing of it is invited or booked. */
const beside: [string, [ReactNode, string][]] = [
	"Below your meetings, thin",
	[
		[<Eye key="watched" aria-hidden size={14} />, "the time of somebody watched: looked at, not invited"],
		[<CalendarDays key="entry" aria-hidden size={14} />, "an entry of another calendar of yours"],
		[
			<i key="only" aria-hidden className="mark-declined block h-[5px] rounded-[2px]" />,
			"the same, shown only: it makes nobody busy",
		],
	],
];

const shown = groups.map(([where, shapes]): [string, [ReactNode, string][]] => [
	where,
	shapes.map(([mark, words]) => [
		<i key={mark} aria-hidden className={`block rounded-[2px] ${mark === "mark-off" ? "h-5" : "h-2.5"} ${mark}`} />,
		words,
	]),
]);

/** What the marks of time mean. */
export const Shapes = ({ onClose }: { onClose: () => void }) => (
	<Legend title="What the shapes mean" groups={[...shown, beside]} left="96px" onClose={onClose} />
);
