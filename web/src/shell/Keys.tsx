import type { ReactNode } from "react";
import { Kbd } from "../ui/kit";
import { Legend } from "./Legend";

const groups: [string, [string, string][]][] = [
	[
		"Everywhere",
		[
			["m", "new meeting"],
			["f", "find a meeting, jump to a date"],
			["e", "today and its loose ends"],
			["n", "what is new"],
			["w", "your weeks"],
			["r", "rooms"],
			["d", "dispatch: what went out"],
			["?", "these keys"],
		],
	],
	[
		"In Weeks and Rooms",
		[
			["← →", "the week or day before, after"],
			["t", "this week, today"],
			["Enter", "on a meeting: into its panel"],
			["Esc", "back to the meeting; then closes the panel"],
			["c", "copy the join card of the meeting in view"],
		],
	],
	[
		"On a sheet",
		[
			["Ctrl ↓ ↑", "the next part, the part before: title, When, Who, Where, Link, Text"],
			["← →", "move the time by a quarter of an hour, from anywhere but a field"],
			["Shift ← →", "move its end"],
			["o, Shift o", "take the next opening, the one before"],
			["Page Up, Page Down", "the day before, the day after"],
			["1 2 3", "on the bracket: one date, from here on, all to come"],
			["Ctrl ↵", "send, from anywhere"],
		],
	],
];

const shown = groups.map(([where, keys]): [string, [ReactNode, string][]] => [
	where,
	keys.map(([key, what]) => [<Kbd key={key}>{key}</Kbd>, what]),
]);

export const Keys = ({ onClose }: { onClose: () => void }) => (
	<Legend title="Keys" groups={shown} left="150px" onClose={onClose} />
);
