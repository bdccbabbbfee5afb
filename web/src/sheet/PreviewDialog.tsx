import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { type Term, t, term } from "../tongue/tongue";
import { Button, Note, Skeleton, Tag } from "../ui/kit";
import { useLast } from "../ui/last";
import { Question } from "../ui/Question";
import { CoverFields } from "./CoverFields";
import { useLetter, usePreviews } from "./deeds";
import type { DraftStore } from "./draft/store";
import { sendWord } from "./Foot";
import type { Sending } from "./useSending";

const kinds: Record<Schemas["Preview"]["kind"], Term> = {
	invite: term("invitation to"),
	update: term("change to"),
	calloff: term("dropped to"),
	clear: term("note to the calendar to"),
};

/** The invitation as each person will get it. */
type Props = { sheet: Schemas["Sheet"]; store: DraftStore; sending: Sending; onClose: () => void };

export function PreviewDialog({ sheet, store, sending, onClose }: Props) {
	const previews = usePreviews(sheet.id, sheet.version);
	const [at, setAt] = useState(0);
	// What is written here makes a new state of the sheet: the last list stays until the next is there.
	const known = useLast(previews.data ?? null);
	const items = known?.items ?? [];
	const shown = items[at];
	const letter = useLetter(sheet.id, sheet.version, at, !!shown);
	const subject = useLast(letter.data?.subject ?? null);
	const problem = previews.error && problemOf(previews.error);
	// What is wrong with the words is said at their fields.
	const wrong =
		problem && (problem.errors ?? [{ detail: problem.detail ?? "", field: "" }]).filter((e) => !coverField(e));
	return (
		<Question wide title={t("What each person will get")} onClose={onClose}>
			{!known && previews.isPending && <Skeleton />}
			{(items.some(covered) || sheet.faults.some(coverField)) && (
				<CoverFields
					store={store}
					faults={sheet.faults.filter(coverField)}
					to={shown && covered(shown) ? shown : undefined}
					subject={subject ?? ""}
				/>
			)}
			{wrong && wrong.length > 0 && (
				<div className="my-3">
					<Note tone="brick">
						<b>{t("Not ready yet.")}</b> {wrong.map((e) => e.detail).join(" ")}
					</Note>
				</div>
			)}
			{known && items.length === 0 && <p className="my-3">{t("Nobody gets a message.")}</p>}
			{shown && (
				<div className="my-3 grid gap-4 md:grid-cols-[240px_minmax(0,1fr)]">
					<ul className="flex flex-col gap-1">
						{items.map((p, i) => (
							<li key={`${p.email} ${p.kind}`}>
								<button
									type="button"
									aria-pressed={i === at}
									onClick={() => setAt(i)}
									className={`flex w-full items-center gap-2 rounded-[3px] border px-2 py-1 text-left ${i === at ? "border-fig bg-fig-wash" : "border-rule"}`}
								>
									<span className="min-w-0 flex-1 truncate">{p.name}</span>
									<Tag>{p.channel === "mail" ? t("by mail") : t("in Jembro")}</Tag>
								</button>
							</li>
						))}
					</ul>
					<div className="min-w-0">
						{shown.language && (
							<Written
								in={shown.language}
								languages={known?.languages ?? []}
								set={(language) => write(store, shown.email, language)}
							/>
						)}
						{!problem && <Letter key={`${at} ${sheet.version}`} sheet={sheet} number={at} to={shown} letter={letter} />}
					</div>
				</div>
			)}
			{sending.problem && <Note tone="brick">{sending.problem.detail}</Note>}
			<div className="mt-2 flex gap-2">
				{known && !problem && (
					<Button look="go" busy={sending.busy} onClick={() => void sending.go().then((sent) => sent || onClose())}>
						{sendWord(sheet)}
					</Button>
				)}
				<Button onClick={onClose}>{t("Close")}</Button>
			</div>
		</Question>
	);
}

/** The language of a letter, which is kept for the next one to them. */
function Written(props: { in: string; languages: Schemas["Language"][]; set: (code: string) => void }) {
	return (
		<label className="mb-1 block text-small">
			<span className="text-quiet">{t("written in")}</span>{" "}
			<select
				className="rounded-[3px] border border-rule bg-white px-1 py-px"
				value={props.in}
				onChange={(e) => props.set(e.target.value)}
			>
				{props.languages.map((l) => (
					<option key={l.code} value={l.code} lang={l.code}>
						{l.name}
					</option>
				))}
			</select>
		</label>
	);
}

function write(store: DraftStore, email: string, language: string) {
	const { people } = store.get().draft;
	store.change({ people: people.map((p) => (p.email.toLowerCase() === email.toLowerCase() ? { ...p, language } : p)) });
	void store.save();
}

/** Whether the words before them go with a message. */
const covered = (p: Schemas["Preview"]) => p.kind === "invite" || p.kind === "update";

const coverField = (e: Schemas["FieldError"]) => e.field.startsWith("cover.");

type LetterProps = {
	sheet: Schemas["Sheet"];
	number: number;
	to: Schemas["Preview"];
	letter: ReturnType<typeof useLetter>;
};

/** One message, written when it is looked at. */
function Letter({ sheet, number, to, letter }: LetterProps) {
	const mail = to.channel === "mail";
	return (
		<div className="min-w-0">
			<p className="mb-1 text-small">
				<span className="text-quiet">{t(kinds[to.kind])}</span> {to.email}
				<br />
				<span className="text-quiet">{mail ? t("subject") : t("shown as")}</span> {letter.data?.subject}
			</p>
			{letter.error && <Note tone="brick">{problemOf(letter.error).detail}</Note>}
			{mail ? (
				<iframe
					title={t("Mail to %s", to.name)}
					onLoad={(e) => e.currentTarget.setAttribute("data-loaded", "")}
					src={`/api/sheets/${sheet.id}/preview/${number}/page`}
					sandbox=""
					className="h-[42vh] w-full border border-rule bg-white"
				/>
			) : (
				<pre
					// biome-ignore lint/a11y/noNoninteractiveTabindex: long text has to be scrolled by keyboard
					tabIndex={0}
					className="h-[42vh] overflow-auto border border-rule bg-white p-3 font-sans whitespace-pre-wrap"
				>
					{letter.data?.text}
				</pre>
			)}
		</div>
	);
}
