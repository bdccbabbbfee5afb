import { useState } from "react";
import { useParams } from "react-router";
import { Temporal } from "temporal-polyfill";
import { ProblemError, type Schemas } from "../api/client";
import { follow } from "../series/rule";
import { Lost } from "../shell/Lost";
import { Button, Note, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { DatesPanel } from "./DatesPanel";
import { useDates, useDay, useRebase, useSheet } from "./deeds";
import { Foot } from "./Foot";
import { Keeping } from "./Keeping";
import { Lanes } from "./Lanes";
import { LinkPart } from "./LinkPart";
import { PreviewDialog } from "./PreviewDialog";
import { RepeatPanel } from "./RepeatPanel";
import { TextPart } from "./TextPart";
import { TitleField } from "./TitleField";
import { useDraft } from "./useDraft";
import { useSending } from "./useSending";
import { WhenPart } from "./WhenPart";
import { WherePart } from "./WherePart";
import { WhoPart } from "./WhoPart";
import { dayPart, readLocal, settled } from "./when";

/** Where one meeting is settled, from draft to sent. */
export function SheetPage() {
	const { id = "" } = useParams();
	const sheet = useSheet(id);
	if (sheet.data) return <SheetView key={id} sheet={sheet.data} />;
	if (sheet.error instanceof ProblemError && [400, 404].includes(sheet.error.problem.status))
		return <Lost what="This sheet is not there" />;
	if (sheet.error)
		return (
			<main className="p-5">
				<TryAgain error={sheet.error} again={() => sheet.refetch()} />
			</main>
		);
	return <Skeleton lines={6} />;
}

export type Filter = { equipment: string[]; siteId: string };

function SheetView({ sheet }: { sheet: Schemas["Sheet"] }) {
	const drafting = useDraft(sheet);
	const { draft } = drafting;
	const change = (part: Partial<Schemas["Draft"]>) => drafting.change(followed(draft, part));
	const [repeating, setRepeating] = useState(false);
	const [filter, setFilter] = useState<Filter>({ equipment: [], siteId: "" });
	const [looking, setLooking] = useState(false);
	const time = settled(draft);
	const day = useDay(
		time && {
			day: dayPart(draft.start),
			zone: draft.zone,
			start: draft.start,
			end: draft.end,
			people: draft.people,
			roomId: draft.roomId,
			wantRoom: !draft.noRoom,
			...filter,
			meetingId: sheet.meetingId ?? "",
		},
	);
	const dates = useDates(sheet, filter);
	const sending = useSending(sheet, drafting);
	const faults = shownFaults(sheet, sending.tried);
	const shownDates = draft.repeat || draft.scope ? dates.data : undefined;
	const part = { sheet, draft, change, faults, day: day.data, dates: shownDates };
	return (
		<>
			<main className="grid flex-1 grid-cols-1 lg:grid-cols-[418px_minmax(0,1fr)]">
				<section
					aria-label="What is settled"
					className="flex flex-col gap-[13px] border-rule border-r bg-sheet py-3.5 pr-[18px] pl-5"
				>
					<TitleField {...part} />
					<Conflicts sheet={sheet} drafting={drafting} />
					<WhenPart {...part} repeating={repeating} setRepeating={setRepeating} />
					<WhoPart {...part} />
					<WherePart {...part} taken={sending.taken} onTake={(roomId) => change({ roomId, noRoom: false })} />
					<LinkPart {...part} save={drafting.save} />
					<TextPart {...part} />
					<Keeping part={part} state={drafting.state} />
				</section>
				<section aria-label="Everybody's day" className="min-w-0 px-[18px] py-3">
					{repeating && <RepeatPanel {...part} onClose={() => setRepeating(false)} />}
					{draft.scope && <DatesPanel {...part} error={dates.error} />}
					<Lanes {...part} error={day.error} filter={filter} setFilter={setFilter} />
					{!draft.scope && <DatesPanel {...part} error={dates.error} />}
				</section>
			</main>
			<Foot
				{...part}
				drafting={drafting}
				sending={sending}
				onLook={() => drafting.save().then(() => setLooking(true))}
			/>
			{looking && <PreviewDialog sheet={sheet} onClose={() => setLooking(false)} />}
		</>
	);
}

export type Part = {
	sheet: Schemas["Sheet"];
	draft: Schemas["Draft"];
	change: (part: Partial<Schemas["Draft"]>) => void;
	faults: Schemas["FieldError"][];
	day: Schemas["Day"] | undefined;
	dates: Schemas["SheetDates"] | undefined;
};

/** A new series goes along when its first day moves; changes to one that was sent are followed by the program. */
function followed(draft: Schemas["Draft"], part: Partial<Schemas["Draft"]>): Partial<Schemas["Draft"]> {
	const [from, to] = [
		readLocal(draft.start)?.toPlainDate(),
		part.start ? readLocal(part.start)?.toPlainDate() : undefined,
	];
	if (!draft.repeat || draft.scope || part.repeat || !from || !to || from.equals(to)) return part;
	const days = from.until(to).days;
	return {
		...part,
		repeat: { ...draft.repeat, rule: follow(draft.repeat.rule, from, to) },
		dates: draft.dates.map((d) => ({ ...d, on: Temporal.PlainDate.from(d.on).add({ days }).toString() })),
	};
}

/** An empty title is no fault to point at before Send was tried. */
const shownFaults = (sheet: Schemas["Sheet"], tried: boolean) =>
	tried ? sheet.faults : sheet.faults.filter((f) => f.field !== "title" || sheet.draft.title.trim() !== "");

export const faultAt = (faults: Schemas["FieldError"][], field: string) => faults.find((f) => f.field === field);

function Conflicts({ sheet, drafting }: { sheet: Schemas["Sheet"]; drafting: ReturnType<typeof useDraft> }) {
	const rebase = useRebase(sheet.id);
	return (
		<>
			{drafting.theirs && (
				<Note>
					<b>Another window saved this sheet.</b> It holds “{drafting.theirs.draft.title || "no title"}”,{" "}
					{drafting.theirs.draft.people.length} people, {drafting.theirs.draft.start.replace("T", " ")}.{" "}
					<Button look="bare" onClick={() => drafting.resolve("theirs")}>
						Take that
					</Button>{" "}
					<Button look="bare" onClick={() => drafting.resolve("mine")}>
						Keep what is here
					</Button>
				</Note>
			)}
			{sheet.stale && (
				<Note>
					<b>The meeting was changed since these changes were begun.</b> Nothing was overwritten.{" "}
					<Button look="bare" busy={rebase.isPending} onClick={() => rebase.mutate(drafting.version())}>
						Start again from the meeting as it is now
					</Button>
				</Note>
			)}
			{drafting.problem && (
				<Note tone="brick">
					<b>Not saved.</b> {drafting.problem.detail}{" "}
					<Button look="bare" onClick={() => void drafting.save()}>
						Try again
					</Button>
				</Note>
			)}
		</>
	);
}
