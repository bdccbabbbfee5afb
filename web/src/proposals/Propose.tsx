import type { UseMutationResult } from "@tanstack/react-query";
import { type SubmitEvent, useId, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { clock, inZone, shortDay, times } from "../time/format";
import { t, term } from "../tongue/tongue";
import { Button, FieldFault, fieldLook, Label, Note } from "../ui/kit";

type Props = {
	/** When it is now, in the zone that is shown. */
	start: string;
	end: string;
	allDay?: boolean;
	zone: string;
	/** The date of a series that it is about, and the state of the meeting. */
	on?: string;
	sequence: number;
	/** What its reader proposed last. */
	proposed?: Schemas["OwnProposal"];
	organiser: string;
	/** They may move it where nobody needed is busy. */
	mayMove?: boolean;
	send: UseMutationResult<unknown, Error, Schemas["ProposeTime"]>;
};

const states = {
	open: term("You proposed another time:"),
	taken: term("It was moved to the time that you proposed:"),
	kept: term("The time is kept. You had proposed"),
};

/** Proposing another time, where a press opens it. */
export function Propose(props: Props) {
	const [open, setOpen] = useState(false);
	const { proposed: p, zone } = props;
	return (
		<div className="flex flex-col items-start gap-1.5">
			{p && (
				<p className="text-small">
					{t(states[p.state])} {shortDay(inZone(p.start, zone).toPlainDate())}, {times(p.start, p.end, zone)}
					{p.state === "open" && <span className="text-quiet">. {t("%s decides about it.", props.organiser)}</span>}
				</p>
			)}
			{open ? (
				<Fields {...props} onDone={() => setOpen(false)} />
			) : (
				!props.allDay && (
					<Button look="bare" className="text-small" onClick={() => setOpen(true)}>
						{props.mayMove ? t("Move it to another time…") : t("Propose another time…")}
					</Button>
				)
			)}
		</div>
	);
}

function Fields({ start, end, zone, on, sequence, organiser, mayMove, send, onDone }: Props & { onDone: () => void }) {
	const id = useId();
	const [from, until] = [inZone(start, zone), inZone(end, zone)];
	const [day, setDay] = useState(from.toPlainDate().toString());
	const [begins, setBegins] = useState(clock(from));
	const [ends, setEnds] = useState(clock(until));
	const [comment, setComment] = useState("");
	const problem = send.error && problemOf(send.error);
	const faults = Object.fromEntries((problem?.errors ?? []).map((f) => [f.field, f.detail]));
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		send.mutate({ day, from: begins, to: ends, zone, comment, sequence, ...(on && { on }) }, { onSuccess: onDone });
	};
	const field = (name: string, label: string, type: string, value: string, set: (v: string) => void) => (
		<div>
			<Label htmlFor={`${id}${name}`}>{label}</Label>
			<input
				id={`${id}${name}`}
				type={type}
				required
				value={value}
				aria-invalid={!!faults[name]}
				aria-describedby={faults[name] ? `${id}${name}-fault` : undefined}
				onChange={(e) => set(e.target.value)}
				className={fieldLook(!!faults[name])}
			/>
			<FieldFault id={`${id}${name}-fault`} sentence={faults[name]} />
		</div>
	);
	return (
		<form onSubmit={submit} noValidate className="w-full max-w-[460px] rounded-[4px] border border-rule p-3">
			<div className="grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_minmax(0,1fr)] gap-2">
				{field("day", t("Day"), "date", day, setDay)}
				{field("from", t("From"), "text", begins, setBegins)}
				{field("to", t("To, or how long"), "text", ends, setEnds)}
			</div>
			<div className="mt-2">
				<Label htmlFor={`${id}comment`}>{t("A word with it (optional)")}</Label>
				<input
					id={`${id}comment`}
					className={fieldLook()}
					value={comment}
					maxLength={1000}
					onChange={(e) => setComment(e.target.value)}
				/>
			</div>
			<FieldFault id={`${id}comment-fault`} sentence={faults.comment} />
			{problem && !problem.errors?.length && (
				<div className="mt-2">
					<Note tone="brick">{problem.detail}</Note>
				</div>
			)}
			{mayMove && (
				<p className="mt-2 text-quiet text-small">
					{t("Everybody is told. Where somebody needed is busy or the room is taken, %s decides.", organiser)}
				</p>
			)}
			<div className="mt-2 flex items-center gap-2">
				<Button type="submit" look="go" busy={send.isPending}>
					{mayMove ? t("Move it") : t("Propose it to %s", organiser)}
				</Button>
				<Button onClick={onDone}>{t("Leave it")}</Button>
			</div>
		</form>
	);
}
