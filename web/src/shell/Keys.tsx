import { type Term, t, term } from "../tongue/tongue";
import { Kbd } from "../ui/kit";
import { type Group, Legend } from "./Legend";

const groups: [Term, [string, Term][]][] = [
	[
		term("Everywhere"),
		[
			["m", term("new meeting")],
			["f", term("find a meeting, jump to a date")],
			["e", term("today and its loose ends")],
			["n", term("what is new")],
			["w", term("your weeks")],
			["r", term("rooms")],
			["d", term("dispatch: what went out")],
			["?", term("these keys")],
		],
	],
	[
		term("In Weeks and Rooms"),
		[
			["← →", term("the week or day before, after")],
			["t", term("this week, today")],
			["Enter", term("on a meeting: into its panel")],
			["Esc", term("back to the meeting; then closes the panel")],
			["c", term("copy the join card of the meeting in view")],
		],
	],
	[
		term("On a sheet"),
		[
			["Ctrl ↓ ↑", term("the next part, the part before: title, When, Who, Where, Link, Text")],
			["← →", term("move the time by a quarter of an hour, from anywhere but a field")],
			["Shift ← →", term("move its end")],
			["o, Shift o", term("take the next opening, the one before")],
			["Page Up, Page Down", term("the day before, the day after")],
			["1 2 3", term("on the bracket: one date, from here on, all to come")],
			["Ctrl ↵", term("send, from anywhere")],
		],
	],
];

const shown = groups.map(
	([where, keys]): Group => [where, keys.map(([key, what]) => [<Kbd key={key}>{key}</Kbd>, what])],
);

export const Keys = ({ onClose }: { onClose: () => void }) => (
	<Legend title={t("Keys")} groups={shown} left="150px" onClose={onClose} />
);
