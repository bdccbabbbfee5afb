import { Button, Kbd } from "../ui/kit";
import { Question } from "../ui/Question";

const keys: [string, string][] = [
	["m", "new meeting"],
	["c", "copy the join card of the meeting in view"],
	["Ctrl ↵", "send the sheet"],
	["← →", "move the chosen time by a quarter of an hour"],
	["Shift ← →", "move its end"],
	["Page Up, Page Down", "the day before, the day after"],
	["1 2 3", "which dates of a series: one, from here on, all to come"],
	["?", "these keys"],
];

export const Keys = ({ onClose }: { onClose: () => void }) => (
	<Question title="Keys" onClose={onClose}>
		<dl className="my-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5">
			{keys.map(([key, what]) => (
				<div key={key} className="contents">
					<dt>
						<Kbd>{key}</Kbd>
					</dt>
					<dd>{what}</dd>
				</div>
			))}
		</dl>
		<Button onClick={onClose}>Close</Button>
	</Question>
);
