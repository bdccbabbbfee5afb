import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { Button, Note, Skeleton, Tag } from "../ui/kit";
import { Question } from "../ui/Question";
import { useLetter, usePreviews } from "./deeds";
import { sendWord } from "./Foot";
import type { Sending } from "./useSending";

const kinds: Record<Schemas["Preview"]["kind"], string> = {
	invite: "invitation",
	update: "change",
	calloff: "dropped",
	clear: "note to the calendar",
};

/** The invitation as each person will get it. */
type Props = { sheet: Schemas["Sheet"]; sending: Sending; onClose: () => void };

export function PreviewDialog({ sheet, sending, onClose }: Props) {
	const previews = usePreviews(sheet.id, sheet.version);
	const [at, setAt] = useState(0);
	const items = previews.data?.items ?? [];
	const shown = items[at];
	const problem = previews.error && problemOf(previews.error);
	return (
		<Question wide title="What each person will get" onClose={onClose}>
			{previews.isPending && <Skeleton />}
			{problem && (
				<div className="my-3">
					<Note tone="brick">
						<b>Not ready yet.</b>{" "}
						{(problem.errors ?? [{ detail: problem.detail ?? "", field: "" }]).map((e) => e.detail).join(" ")}
					</Note>
				</div>
			)}
			{previews.data && items.length === 0 && <p className="my-3">Nobody gets a message.</p>}
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
									<Tag>{p.channel === "mail" ? "by mail" : "in Jembro"}</Tag>
								</button>
							</li>
						))}
					</ul>
					<Letter key={at} sheet={sheet} number={at} to={shown} />
				</div>
			)}
			{sending.problem && <Note tone="brick">{sending.problem.detail}</Note>}
			<div className="mt-2 flex gap-2">
				{previews.data && (
					<Button look="go" busy={sending.busy} onClick={() => void sending.go().then((sent) => sent || onClose())}>
						{sendWord(sheet)}
					</Button>
				)}
				<Button onClick={onClose}>Close</Button>
			</div>
		</Question>
	);
}

/** One message, written when it is looked at. */
function Letter({ sheet, number, to }: { sheet: Schemas["Sheet"]; number: number; to: Schemas["Preview"] }) {
	const letter = useLetter(sheet.id, sheet.version, number);
	const mail = to.channel === "mail";
	return (
		<div className="min-w-0">
			<p className="mb-1 text-small">
				<span className="text-quiet">{kinds[to.kind]} to</span> {to.email}
				<br />
				<span className="text-quiet">{mail ? "subject" : "shown as"}</span> {letter.data?.subject}
			</p>
			{letter.error && <Note tone="brick">{problemOf(letter.error).detail}</Note>}
			{mail ? (
				<iframe
					title={`Mail to ${to.name}`}
					onLoad={(e) => e.currentTarget.setAttribute("data-loaded", "")}
					src={`/api/sheets/${sheet.id}/preview/${number}/page`}
					sandbox=""
					className="h-[46vh] w-full border border-rule bg-white"
				/>
			) : (
				<pre
					// biome-ignore lint/a11y/noNoninteractiveTabindex: long text has to be scrolled by keyboard
					tabIndex={0}
					className="h-[46vh] overflow-auto border border-rule bg-white p-3 font-sans whitespace-pre-wrap"
				>
					{letter.data?.text}
				</pre>
			)}
		</div>
	);
}
