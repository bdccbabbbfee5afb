import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { useLocation, useParams } from "react-router";
import { Temporal } from "temporal-polyfill";
import { ProblemError, type Schemas } from "../api/client";
import { keys } from "../api/keys";
import { useSignedIn } from "../api/me";
import { Lost } from "../shell/Lost";
import { useTitle } from "../shell/title";
import { monday } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { Button, Note, Skeleton } from "../ui/kit";
import { useLast } from "../ui/last";
import { TryAgain } from "../ui/TryAgain";
import { DatesPanel } from "./DatesPanel";
import { useDates, useDay, useOpenings, useRebase, useSheet } from "./deeds";
import type { DraftStore } from "./draft/store";
import { useDraftStore, useWritten } from "./draft/useDraft";
import { FilesPart } from "./FilesPart";
import { Foot } from "./Foot";
import { Keeping } from "./Keeping";
import { Lanes } from "./Lanes";
import { LinkPart } from "./LinkPart";
import { Openings, usually, type Within } from "./Openings";
import { type Begun, begin, useFresh } from "./open";
import { type Filter, type Frame, frameOf } from "./part";
import { RepeatPanel } from "./RepeatPanel";
import { SeriesOpenings } from "./SeriesOpenings";
import { TextPart } from "./TextPart";
import { TitleField } from "./TitleField";
import { useHold } from "./useHold";
import { useSending } from "./useSending";
import { useSheetKeys } from "./useSheetKeys";
import { WhenPart } from "./WhenPart";
import { WherePart } from "./WherePart";
import { WhoPart } from "./WhoPart";
import { dayPart, readLocal, settled } from "./when";

// What comes up at a press comes when it is asked for.
const GoesOut = lazy(async () => ({ default: (await import("./GoesOut")).GoesOut }));
const LaterDialog = lazy(async () => ({ default: (await import("./LaterDialog")).LaterDialog }));
const PreviewDialog = lazy(async () => ({ default: (await import("./PreviewDialog")).PreviewDialog }));
const LinkPanel = lazy(async () => ({ default: (await import("./LinkPanel")).LinkPanel }));

/** Where one meeting is settled, from draft to sent. */
export function SheetPage() {
	const { id = "" } = useParams();
	const begun = (useLocation().state as Begun | null)?.begun;
	const fresh = useFresh().data;
	const sheet = useSheet(id);
	const queries = useQueryClient();
	useTitle(sheet.data?.draft.title || (sheet.data?.meetingId ? t("Changes") : t("New meeting")));
	const gone = sheet.error instanceof ProblemError && [400, 404].includes(sheet.error.problem.status);
	// Begun in this window and not kept yet: after a reload it begins again.
	useEffect(() => {
		if (gone && begun && fresh && !sheet.data) queries.setQueryData(keys.sheet(id), begin(fresh, id, begun));
	}, [gone, begun, fresh, sheet.data, queries, id]);
	if (sheet.data?.waits)
		return (
			<Suspense fallback={<Skeleton lines={4} />}>
				<GoesOut key={sheet.data.waits.key} sheet={sheet.data} waits={sheet.data.waits} />
			</Suspense>
		);
	if (sheet.data) return <SheetView key={id} sheet={sheet.data} />;
	if (gone && !begun) return <Lost what={t("This sheet is not there")} />;
	if (sheet.error && !gone)
		return (
			<main className="p-5">
				<TryAgain error={sheet.error} again={() => sheet.refetch()} />
			</main>
		);
	return <Skeleton lines={6} />;
}

function SheetView({ sheet }: { sheet: Schemas["Sheet"] }) {
	const store = useDraftStore(sheet);
	const draft = useWritten(store, (w) => frameOf(w.draft));
	const { change } = store;
	const [panel, setPanel] = useState<"repeat" | "call" | null>(null);
	const setRepeating = useCallback((on: boolean) => setPanel(on ? "repeat" : null), []);
	const setChoosing = useCallback((on: boolean) => setPanel(on ? "call" : null), []);
	const [filter, setFilter] = useState<Filter>({ equipment: [], siteId: "" });
	const [looking, setLooking] = useState(false);
	const [later, setLater] = useState(false);
	const question = useLast(dayQuestion(draft, filter, sheet.meetingId ?? ""));
	const day = useDay(question);
	const today = useNow().toZonedDateTimeISO(useSignedIn().zone).toPlainDate();
	const [within, setWithin] = useState(usually);
	const openings = useOpenings(openingsQuestion(question, draft, within, today));
	const good = useMemo(() => new Map(openings.data?.days.map((d) => [d.day, d.good])), [openings.data]);
	const dates = useDates(sheet, filter);
	const sending = useSending(sheet, store);
	const { tried } = sending;
	const faults = useMemo(() => shownFaults(sheet, tried), [sheet, tried]);
	const shownDates = draft.repeat || draft.scope ? dates.data : undefined;
	const hold = useHold(sheet, draft);
	const part = { sheet, draft, change, faults, day: day.data, dates: shownDates, store };
	const takeRoom = useCallback((roomId: string) => change({ roomId, noRoom: false }), [change]);
	const done = useCallback(() => setPanel(null), []);
	const wait = useCallback(() => setLater(true), []);
	const look = useCallback(() => store.save().then(() => setLooking(true)), [store]);
	useSheetKeys(store);
	return (
		<>
			<main className="grid min-w-0 flex-1 grid-cols-1 lg:grid-cols-[418px_minmax(0,1fr)]">
				<section
					aria-label={t("What is settled")}
					className="flex min-w-0 flex-col gap-[13px] border-rule border-r bg-sheet py-3.5 pr-[18px] pl-5"
				>
					<TitleField {...part} />
					<Conflicts sheet={sheet} store={store} />
					<WhenPart {...part} repeating={panel === "repeat"} setRepeating={setRepeating} />
					<WhoPart {...part} />
					<WherePart {...part} hold={hold} taken={sending.taken} onTake={takeRoom} />
					<LinkPart {...part} choosing={panel === "call"} onChoose={setChoosing} />
					<TextPart {...part} />
					<FilesPart {...part} />
					<Keeping part={part} />
				</section>
				<section aria-label={t("Everybody's day")} className="min-w-0 px-[18px] py-3 max-sm:px-2">
					{panel === "call" && (
						<Suspense fallback={<Skeleton lines={6} />}>
							<LinkPanel {...part} onClose={done} />
						</Suspense>
					)}
					{panel === "repeat" && <RepeatPanel {...part} onClose={done} />}
					<DatesPanel {...part} error={dates.error} />
					<Lanes {...part} good={good} error={day.error} filter={filter} setFilter={setFilter} />
					{draft.repeat && !draft.scope && !draft.allDay && (
						<SeriesOpenings
							sheet={sheet}
							draft={draft}
							change={change}
							filter={filter}
							within={within}
							setWithin={setWithin}
						/>
					)}
					{!draft.repeat && !draft.scope && !draft.allDay && (
						<Openings
							draft={draft}
							change={change}
							openings={openings.data}
							error={openings.error}
							within={within}
							setWithin={setWithin}
						/>
					)}
				</section>
			</main>
			<Foot {...part} sending={sending} onLook={look} onLater={wait} />
			{later && (
				<Suspense fallback={null}>
					<LaterDialog sending={sending} onClose={() => setLater(false)} />
				</Suspense>
			)}
			{looking && (
				<Suspense fallback={null}>
					<PreviewDialog sheet={sheet} store={store} sending={sending} onClose={() => setLooking(false)} />
				</Suspense>
			)}
		</>
	);
}

/** What the right-hand side asks; null while there is no time to ask about. */
function dayQuestion(draft: Frame, filter: Filter, meetingId: string) {
	return (
		settled(draft) && {
			day: dayPart(draft.start),
			zone: draft.zone,
			start: draft.start,
			end: draft.end,
			people: draft.people,
			roomId: draft.roomId,
			wantRoom: !draft.noRoom,
			...filter,
			meetingId,
		}
	);
}

/**
 * The question for openings from today on, or, for a time further ahead, from its week on: it stays the same while one
 * of them is taken. Null for a series, which has its dates.
 */
function openingsQuestion(
	day: ReturnType<typeof dayQuestion>,
	draft: Frame,
	within: Within,
	today: Temporal.PlainDate,
) {
	const time = settled(draft);
	const start = day && readLocal(day.start)?.toPlainDate();
	if (!day || !time || !start || draft.allDay || draft.repeat || draft.scope) return null;
	const ahead = today.until(start).days >= within.days || Temporal.PlainDate.compare(start, today) < 0;
	const { start: _, end: __, day: ___, ...rest } = day;
	return { ...rest, ...within, first: (ahead ? monday(start) : today).toString(), minutes: time.minutes };
}

/** An empty title is no fault to point at before Send was tried. */
const shownFaults = (sheet: Schemas["Sheet"], tried: boolean) =>
	tried ? sheet.faults : sheet.faults.filter((f) => f.field !== "title" || sheet.draft.title.trim() !== "");

function Conflicts({ sheet, store }: { sheet: Schemas["Sheet"]; store: DraftStore }) {
	const rebase = useRebase(sheet.id);
	const { theirs, problem } = useWritten(store, (w) => ({ theirs: w.theirs, problem: w.problem }));
	return (
		<>
			{theirs && (
				<Note>
					<b>{t("Another window saved this sheet.")}</b>{" "}
					{t(
						"It holds “%s”, %s people, %s.",
						theirs.draft.title || t("no title"),
						theirs.draft.people.length,
						theirs.draft.start.replace("T", " "),
					)}{" "}
					<Button look="bare" onClick={() => store.resolve("theirs")}>
						{t("Take that")}
					</Button>{" "}
					<Button look="bare" onClick={() => store.resolve("mine")}>
						{t("Keep what is here")}
					</Button>
				</Note>
			)}
			{sheet.stale && (
				<Note>
					<b>{t("The meeting was changed since these changes were begun.")}</b> {t("Nothing was overwritten.")}{" "}
					<Button look="bare" busy={rebase.isPending} onClick={() => rebase.mutate(store.get().version)}>
						{t("Start again from the meeting as it is now")}
					</Button>
				</Note>
			)}
			{problem && (
				<Note tone="brick">
					<b>{t("Not saved.")}</b> {problem.detail}{" "}
					<Button look="bare" onClick={() => void store.save()}>
						{t("Try again")}
					</Button>
				</Note>
			)}
		</>
	);
}
