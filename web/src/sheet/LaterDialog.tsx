import { type SubmitEvent, useState } from "react";
import { t } from "../tongue/tongue";
import { Button, FieldFault, fieldLook, Note } from "../ui/kit";
import { Question } from "../ui/Question";
import type { Sending } from "./useSending";

const offered = ["tomorrow 8:00", "monday 8:00"];

/** Has the sheet go out by itself at a moment that is typed. */
export function LaterDialog({ sending, onClose }: { sending: Sending; onClose: () => void }) {
	const [text, setText] = useState("");
	const [asked, setAsked] = useState(false);
	const send = (at: string) => {
		setAsked(true);
		void sending.go(at);
	};
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		if (text.trim()) send(text.trim());
	};
	const { moment } = sending;
	const other = asked && !sending.busy && !moment ? sending.problem : null;
	return (
		<Question title={t("Send later")} onClose={onClose}>
			<form noValidate onSubmit={submit} className="my-3">
				<label htmlFor="send-at" className="mb-0.5 block text-quiet text-small">
					{t("When, by your clock")}
				</label>
				<div className="flex gap-2">
					<input
						id="send-at"
						// biome-ignore lint/a11y/noAutofocus: the question is for nothing else
						autoFocus
						autoComplete="off"
						maxLength={100}
						placeholder={t("7:00, tomorrow 8:00, 1 Dec 7:30")}
						className={`${fieldLook(!!moment)} placeholder:text-quiet`}
						aria-invalid={!!moment}
						aria-describedby={moment && "send-at-fault"}
						value={text}
						onChange={(e) => setText(e.target.value)}
					/>
					<Button type="submit" look="go" busy={sending.busy} disabled={!text.trim()}>
						{t("Have it wait")}
					</Button>
				</div>
				<FieldFault id="send-at-fault" sentence={moment} />
			</form>
			{other && (
				<div className="my-3">
					<Note tone="brick">{other.errors?.[0]?.detail ?? other.detail}</Note>
				</div>
			)}
			<div className="flex flex-wrap gap-2">
				{offered.map((at) => (
					<Button key={at} disabled={sending.busy} onClick={() => send(at)}>
						{at.charAt(0).toUpperCase() + at.slice(1)}
					</Button>
				))}
				<Button onClick={onClose}>{t("Close")}</Button>
			</div>
		</Question>
	);
}
