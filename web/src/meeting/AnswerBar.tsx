import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { type Given, useAnswer } from "./deeds";

const choices: [Given, string][] = [
	["accepted", "Accept"],
	["maybe", "Maybe"],
	["declined", "Decline"],
];

type Props = {
	current: Schemas["Answer"];
	comment: string;
	busy: boolean;
	onGive: (answer: Given, comment: string) => void;
};

/** The three answers; the one that holds is marked. A word with it is optional. */
export function Answers({ current, comment, busy, onGive }: Props) {
	const [word, setWord] = useState(comment);
	return (
		<div className="flex flex-col gap-2">
			{/* biome-ignore lint/a11y/useSemanticElements: buttons that act at once are no form fields */}
			<div role="group" aria-label="Your answer" className="flex flex-wrap gap-2">
				{choices.map(([answer, label]) => (
					<Button
						key={answer}
						look={current === answer || (current === "none" && answer === "accepted") ? "go" : "plain"}
						aria-pressed={current === answer}
						disabled={busy}
						onClick={() => onGive(answer, word)}
					>
						{current === answer && "✓ "}
						{label}
					</Button>
				))}
			</div>
			<div className="max-w-[420px]">
				<Label htmlFor="word">A word with it (optional)</Label>
				<input
					id="word"
					className={fieldLook()}
					value={word}
					maxLength={1000}
					onChange={(e) => setWord(e.target.value)}
				/>
			</div>
		</div>
	);
}

/** Answering inside. */
export function AnswerBar({ meeting }: { meeting: Schemas["Meeting"] }) {
	const answer = useAnswer(meeting);
	const error = answer.error && problemOf(answer.error);
	return (
		<div className="flex flex-col gap-2">
			{error && <Note tone="brick">{error.errors?.[0]?.detail ?? error.detail}</Note>}
			<Answers
				current={meeting.myAnswer ?? "none"}
				comment=""
				busy={answer.isPending}
				onGive={(given, comment) => answer.mutate({ answer: given, comment })}
			/>
		</div>
	);
}
