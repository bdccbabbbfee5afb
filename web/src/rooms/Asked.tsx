import { useState } from "react";
import { Link } from "react-router";
import { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { moment, monday } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { useAnswerRequest } from "./deeds";

type Request = Schemas["AskedRoom"];

/** What waits for the answer of who keeps rooms. */
export function Asked({ asked, zone }: { asked: Request[]; zone: string }) {
	return (
		<section aria-label={t("Asked of you")} className="mb-5">
			<h2 className="text-[19px]">
				{t("Asked of you")}{" "}
				{asked.length > 0 && (
					<span className="rounded-[3px] bg-honey-wash px-1.5 text-[15px] text-honey">{asked.length}</span>
				)}
			</h2>
			{asked.length === 0 && (
				<p className="mt-1 text-quiet">{t("Nothing waits for your answer. What is asked comes here and under New.")}</p>
			)}
			<ul className="mt-2 flex flex-col gap-2.5">
				{asked.map((q) => (
					<Card key={q.id} q={q} zone={zone} />
				))}
			</ul>
		</section>
	);
}

function Card({ q, zone }: { q: Request; zone: string }) {
	const now = useNow();
	const answer = useAnswerRequest();
	const [refusing, setRefusing] = useState(false);
	const [word, setWord] = useState("");
	const give = (yes: boolean, said = "") => answer.mutate({ id: q.id, yes, word: said });
	const yes = q.dates > 1 ? t("Yes to %s", q.dates) : t("Yes");
	const instead = q.instead[0];
	const from = monday(Temporal.PlainDate.from(q.day)).toString();
	return (
		<li className="rounded-[4px] border border-rule border-l-[5px] border-l-honey px-3 py-2">
			<b className="font-[650]">{q.title}</b>
			<p className="text-quiet text-small">
				<Link to={`/room/${q.roomId}?from=${from}`}>{q.room}</Link> · {q.when}
				{q.dates > 1 && `, ${t("%s dates", q.dates)}`} · {q.by}, {many(q.people, "alone", "%d people")}
			</p>
			{q.repeats && <p className="text-quiet text-small">{q.repeats}</p>}
			<p className="text-small">{q.why}</p>
			{q.without > 0 && (
				<p className="text-honey text-small">
					{many(q.without, "One more date does without the room.", "%d more dates do without the room.")}
				</p>
			)}
			{answer.error && (
				<div className="mt-1.5">
					<Note tone="brick">{problemOf(answer.error).detail}</Note>
				</div>
			)}
			{refusing ? (
				<form
					className="mt-1.5"
					onSubmit={(e) => {
						e.preventDefault();
						give(false, word);
					}}
				>
					<Label htmlFor={`why-${q.id}`}>{t("A word to %s (optional)", q.by)}</Label>
					<input
						id={`why-${q.id}`}
						// biome-ignore lint/a11y/noAutofocus: it was asked for by a press
						autoFocus
						className={fieldLook()}
						value={word}
						maxLength={1000}
						onChange={(e) => setWord(e.target.value)}
						onKeyDown={(e) => e.key === "Escape" && setRefusing(false)}
					/>
					<div className="mt-1.5 flex gap-2">
						<Button look="stop" type="submit" busy={answer.isPending}>
							{t("Refuse")}
						</Button>
						<Button onClick={() => setRefusing(false)}>{t("Back")}</Button>
					</div>
				</form>
			) : (
				<div className="mt-1.5 flex flex-wrap gap-2">
					<Button look="go" busy={answer.isPending} onClick={() => give(true)}>
						{yes}
						<span className="sr-only"> {t("to %s", q.title)}</span>
					</Button>
					<Button disabled={answer.isPending} onClick={() => setRefusing(true)}>
						{t("No, because…")}
					</Button>
					{instead && (
						<Button disabled={answer.isPending} onClick={() => give(false, t("%s is clear then.", instead.name))}>
							{t("No, %s is clear", instead.name)}
						</Button>
					)}
				</div>
			)}
			<p className="mt-1 text-quiet text-small">{t("no answer until %s is a no", moment(q.lapsesAt, zone, now))}</p>
		</li>
	);
}
