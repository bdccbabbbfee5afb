import { useState } from "react";
import { useParams } from "react-router";
import { ProblemError, type Schemas } from "../api/client";
import { Lost } from "../shell/Lost";
import { Button, Note, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { useDay, useRebase, useSheet } from "./deeds";
import { Foot } from "./Foot";
import { Keeping } from "./Keeping";
import { Lanes } from "./Lanes";
import { LinkPart } from "./LinkPart";
import { PreviewDialog } from "./PreviewDialog";
import { TextPart } from "./TextPart";
import { TitleField } from "./TitleField";
import { useDraft } from "./useDraft";
import { useSending } from "./useSending";
import { WhenPart } from "./WhenPart";
import { WherePart } from "./WherePart";
import { WhoPart } from "./WhoPart";
import { dayPart, settled } from "./when";

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
	const { draft, change } = drafting;
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
	const sending = useSending(sheet, drafting);
	const faults = shownFaults(sheet, sending.tried);
	const part = { sheet, draft, change, faults, day: day.data };
	return (
		<>
			<main className="grid flex-1 grid-cols-1 lg:grid-cols-[418px_minmax(0,1fr)]">
				<section
					aria-label="What is settled"
					className="flex flex-col gap-[13px] border-rule border-r bg-sheet py-3.5 pr-[18px] pl-5"
				>
					<TitleField {...part} />
					<Conflicts sheet={sheet} drafting={drafting} />
					<WhenPart {...part} />
					<WhoPart {...part} />
					<WherePart {...part} taken={sending.taken} onTake={(roomId) => change({ roomId, noRoom: false })} />
					<LinkPart {...part} save={drafting.save} />
					<TextPart {...part} />
					<Keeping part={part} state={drafting.state} />
				</section>
				<section aria-label="Everybody's day" className="min-w-0 px-[18px] py-3">
					<Lanes {...part} error={day.error} filter={filter} setFilter={setFilter} />
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
};

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
