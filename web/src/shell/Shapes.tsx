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

const shown = groups.map(([where, shapes]): [string, [ReactNode, string][]] => [
	where,
	shapes.map(([mark, words]) => [
		<i key={mark} aria-hidden className={`block rounded-[2px] ${mark === "mark-off" ? "h-5" : "h-2.5"} ${mark}`} />,
		words,
	]),
]);

/** What the marks of time mean. */
export const Shapes = ({ onClose }: { onClose: () => void }) => (
	<Legend title="What the shapes mean" groups={shown} left="96px" onClose={onClose} />
);
