import { Button } from "../ui/kit";
import { Question } from "../ui/Question";

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

/** What the marks of time mean. */
export const Shapes = ({ onClose }: { onClose: () => void }) => (
	<Question title="What the shapes mean" onClose={onClose}>
		{groups.map(([name, shapes]) => (
			<section key={name} className="mt-2.5">
				<h3 className="text-[15px]">{name}</h3>
				<dl className="mt-1 grid grid-cols-[96px_1fr] items-center gap-x-4 gap-y-1.5">
					{shapes.map(([mark, words]) => (
						<div key={mark} className="contents">
							<dt>
								<i aria-hidden className={`block rounded-[2px] ${mark === "mark-off" ? "h-5" : "h-2.5"} ${mark}`} />
							</dt>
							<dd>{words}</dd>
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
