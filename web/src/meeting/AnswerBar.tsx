import { useState } from "react";
import { type Given, useGiveAnswer } from "../api/answer";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, shortDay } from "../time/format";
import { type Term, t, term } from "../tongue/tongue";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { clashWords } from "./clashWords";

const choices: [Given, Term][] = [
	["accepted", term("Accept")],
	["maybe", term("Maybe")],
	["declined", term("Decline")],
];

type Props = {
	/** Tells several on one page apart; there the field for a word opens at a press. */
	id?: string;
	current: Schemas["Answer"];
	comment: string;
	busy: boolean;
	onGive: (answer: Given, comment: string) => void;
};

/** The three answers; the one that holds is marked. A word with it is optional. */
export function Answers({ id = "", current, comment, busy, onGive }: Props) {
	const [word, setWord] = useState(comment);
	const [wordy, setWordy] = useState(id === "");
	return (
		<div className="flex flex-col gap-2">
			{/* biome-ignore lint/a11y/useSemanticElements: buttons that act at once are no form fields */}
			<div role="group" aria-label={t("Your answer")} className="flex flex-wrap gap-2">
				{choices.map(([answer, label]) => (
					<Button
						key={answer}
						look={current === answer || (current === "none" && answer === "accepted") ? "go" : "plain"}
						aria-pressed={current === answer}
						disabled={busy}
						onClick={() => onGive(answer, word)}
					>
						{current === answer && "✓ "}
						{t(label)}
					</Button>
				))}
				{!wordy && (
					<Button look="bare" className="text-small" onClick={() => setWordy(true)}>
						{t("with a word…")}
					</Button>
				)}
			</div>
			<div className="max-w-[420px]" hidden={!wordy}>
				<Label htmlFor={`word${id}`}>{t("A word with it (optional)")}</Label>
				<input
					id={`word${id}`}
					className={fieldLook()}
					value={word}
					maxLength={1000}
					onChange={(e) => setWord(e.target.value)}
				/>
			</div>
			{current !== "none" && word.trim() !== comment.trim() && (
				<div>
					<Button look="bare" className="text-small" disabled={busy} onClick={() => onGive(current, word)}>
						{t("Send this word, the answer stays")}
					</Button>
				</div>
			)}
		</div>
	);
}

/** Answering inside: to all dates of a series, or to the one that is looked at. */
export function AnswerBar({ meeting, on }: { meeting: Schemas["Meeting"]; on?: string }) {
	const answer = useGiveAnswer(meeting.id, meeting.mySequence ?? 0);
	const { zone } = useSignedIn();
	const date = meeting.series?.dates.find((d) => d.on === on && d.mine !== undefined && d.state !== "held");
	const [one, setOne] = useState(false);
	const error = answer.error && problemOf(answer.error);
	const single = one && date ? date : undefined;
	const clashes = (meeting.clashes ?? []).filter((c) => !single || c.on === single.on);
	return (
		<div className="flex flex-col gap-2">
			{clashes.length > 0 && <p className="text-honey text-small">{clashWords(clashes.map((c) => c.words))}</p>}
			{error && <Note tone="brick">{error.errors?.[0]?.detail ?? error.detail}</Note>}
			{date && <WhichDates one={one} setOne={setOne} day={shortDay(inZone(date.start, zone).toPlainDate())} />}
			<Answers
				key={single?.on ?? "all"}
				current={single?.mine ?? meeting.myAnswer ?? "none"}
				comment=""
				busy={answer.isPending}
				onGive={(given, comment) =>
					answer.mutate({ answer: given, comment, ...(single && { on: single.on, sequence: single.mySequence }) })
				}
			/>
		</div>
	);
}

/** For all dates, or for one. */
export function WhichDates(props: { one: boolean; setOne: (one: boolean) => void; day: string }) {
	const choice = (one: boolean, words: string) => (
		<label className="flex items-center gap-1.5">
			<input
				type="radio"
				name="which-dates"
				className="accent-fig"
				checked={props.one === one}
				onChange={() => props.setOne(one)}
			/>
			{words}
		</label>
	);
	return (
		<fieldset className="flex flex-wrap gap-x-4 text-small">
			<legend className="sr-only">{t("Which dates the answer is for")}</legend>
			{choice(false, t("for all dates"))}
			{choice(true, t("for %s only", props.day))}
		</fieldset>
	);
}
