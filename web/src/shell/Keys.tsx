import { Button, Kbd } from "../ui/kit";
import { Question } from "../ui/Question";

const groups: [string, [string, string][]][] = [
	[
		"Everywhere",
		[
			["m", "new meeting"],
			["f", "find a meeting, jump to a date"],
			["n", "what is new"],
			["w", "your weeks"],
			["?", "these keys"],
		],
	],
	[
		"In Weeks",
		[
			["← →", "the week before, the week after"],
			["t", "this week"],
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
			["Page Up, Page Down", "the day before, the day after"],
			["1 2 3", "on the bracket: one date, from here on, all to come"],
			["Ctrl ↵", "send, from anywhere"],
		],
	],
];

export const Keys = ({ onClose }: { onClose: () => void }) => (
	<Question title="Keys" onClose={onClose}>
		{groups.map(([where, keys]) => (
			<section key={where} className="mt-2.5">
				<h3 className="text-[15px]">{where}</h3>
				<dl className="mt-1 grid grid-cols-[150px_1fr] gap-x-4 gap-y-1">
					{keys.map(([key, what]) => (
						<div key={key} className="contents">
							<dt>
								<Kbd>{key}</Kbd>
							</dt>
							<dd>{what}</dd>
						</div>
					))}
				</dl>
			</section>
		))}
		<div className="mt-3">
			<Button onClick={onClose}>Close</Button>
		</div>
	</Question>
);
