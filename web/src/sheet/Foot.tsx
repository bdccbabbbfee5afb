import { memo, useEffect } from "react";
import { useNavigate } from "react-router";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { shortDay } from "../time/format";
import { Button, Kbd, Note } from "../ui/kit";
import type { Part } from "./part";
import type { Sending } from "./useSending";
import { goTo, type PartName } from "./useSheetKeys";

type Standing = { name: PartName; open?: string; broken?: boolean };

/** What is still unsettled, and exactly whom Send reaches. */
export const Foot = memo(function Foot(part: Part & { sending: Sending; onLook: () => void; onLater: () => void }) {
	const { sheet, store, sending, onLook, onLater } = part;
	const navigate = useNavigate();
	const go = sending.go;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
			// Before a list that is open takes the key for a choice.
			e.preventDefault();
			e.stopImmediatePropagation();
			(document.activeElement as HTMLElement | null)?.blur();
			setTimeout(() => void go(), 0);
		};
		window.addEventListener("keydown", hear, true);
		return () => window.removeEventListener("keydown", hear, true);
	}, [go]);
	const all = standings(part);
	return (
		<footer className="sticky bottom-0 z-10 [@media(max-height:520px)]:static border-rule border-t bg-sheet px-5 text-body max-sm:px-2.5">
			{sending.problem && (
				<div className="pt-2">
					<Note tone="brick">{sending.problem.detail}</Note>
				</div>
			)}
			<div className="flex min-h-14 flex-wrap items-center gap-x-4 gap-y-2 py-2 max-sm:flex-nowrap max-sm:gap-x-2 lg:flex-nowrap">
				<ul aria-label="What is settled" className="flex flex-wrap gap-x-1 max-sm:hidden">
					{all.map((s) => (
						<li key={s.name}>
							<button
								type="button"
								onClick={() => goTo(s.name)}
								className={`rounded-[3px] px-1 text-left font-[650] hover:underline ${s.broken ? "text-brick" : s.open ? "text-honey" : "text-moss"}`}
							>
								<span aria-hidden>{s.open ? "!" : "✓"}</span> {s.name}
								{s.open && `: ${s.open}`}
							</button>
						</li>
					))}
				</ul>
				<span className="ml-auto min-w-0 text-right max-sm:ml-0 max-sm:line-clamp-2 max-sm:flex-1 max-sm:text-left max-sm:text-small">
					<Meant part={part} />
					<span className="text-quiet">{reach(part)}</span>
				</span>
				<Button className="max-sm:hidden" onClick={() => store.save().then((ok) => ok && navigate("/weeks"))}>
					Keep as draft
				</Button>
				<Button onClick={onLook}>
					See <span className="max-sm:sr-only">the invitation</span>
				</Button>
				<Button className="max-sm:hidden" onClick={onLater}>
					Later…
				</Button>
				<Button look="go" busy={sending.busy} onClick={() => void go()}>
					{sendWord(sheet)}
					<span className="max-sm:hidden">
						<Kbd onDark>Ctrl ↵</Kbd>
					</span>
				</Button>
			</div>
		</footer>
	);
});

export const sendWord = (sheet: Part["sheet"]) => (sheet.meetingId ? "Send changes" : "Send");

/** Which dates of a series a change is for, in words that cannot be missed. */
function Meant({ part }: { part: Part }) {
	const { scope } = part.draft;
	if (!scope) return null;
	const free = part.dates?.dates.filter((d) => d.scope !== "" && d.state !== "held") ?? [];
	const day = (on: string) => shortDay(Temporal.PlainDate.from(on));
	const words =
		scope.from === scope.to
			? `Only ${day(scope.from)}`
			: scope.to !== ""
				? `${day(scope.from)} to ${day(scope.to)}`
				: free[0] && free[0].scope < scope.from
					? `From ${day(scope.from)} on`
					: "All dates to come";
	return <b className="mr-2 rounded-[3px] bg-fig px-1.5 py-0.5 font-[650] whitespace-nowrap text-white">{words}</b>;
}

function standings({ sheet, draft, day, dates }: Part): Standing[] {
	const fault = (...fields: string[]) =>
		sheet.faults.find((f) => fields.some((x) => f.field === x || f.field.startsWith(`${x}.`)));
	const time = fault("day", "start", "end", "lastDay", "length", "zone", "repeat", "dates", "scope");
	const meant = dates?.dates.filter((d) => d.inScope) ?? [];
	const roomless = meant.filter((d) => d.state === "noroom").length;
	const clashing = meant.filter((d) => d.state === "busy").length;
	const who = fault("people", "unclear");
	const room = fault("room");
	const busy = day?.troubles.filter((t) => t.blocks) ?? [];
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const text = fault("title", "text", "cover");
	const files = fault("files");
	return [
		{
			name: "When",
			open:
				time?.detail ??
				(clashing > 0
					? `${datesWords(clashing)} ${clashing === 1 ? "clashes" : "clash"}`
					: busy.length > 0 && !dates
						? busyWords(busy, day?.lanes.find((l) => l.you)?.email)
						: undefined),
			broken: !!time,
		},
		{
			name: "Who",
			open:
				sheet.unclear.length > 0
					? "say who is meant"
					: (who?.detail ?? (draft.people.length === 0 ? "only you" : undefined)),
			broken: !!who,
		},
		{
			name: "Where",
			open:
				room?.detail ??
				(roomless > 0
					? `${datesWords(roomless)} without a room`
					: lane && !lane.clear && !dates
						? `${lane.room.name} is taken`
						: !draft.roomId && !draft.noRoom
							? "no room yet"
							: undefined),
			broken: !!room || roomless > 0 || (!!lane && !lane.clear && !dates),
		},
		{
			name: "Link",
			open:
				sheet.card && sheet.link.ways.length > 0
					? "two ways in"
					: sheet.card?.follows
						? "follows"
						: !sheet.card && !draft.noLink
							? "none yet"
							: sheet.link.over.length > 0
								? "over the plan"
								: sheet.link.overlaps.length > 0
									? "room in use"
									: undefined,
			broken: !!sheet.card && sheet.link.ways.length > 0,
		},
		...(text && !(sheet.card && sheet.link.ways.some((w) => w.field === text.field))
			? [
					{
						name: (text.field === "title" ? "Title" : "Text") as PartName,
						open: text.field === "title" && !sheet.draft.title.trim() ? "none yet" : "too long",
						broken: true,
					},
				]
			: []),
		...(files ? [{ name: "Files" as PartName, open: files.detail, broken: true }] : []),
	];
}

const datesWords = (n: number) => (n === 1 ? "1 date" : `${n} dates`);

/** Who cannot, and why where it is one: somebody on leave is not busy. */
function busyWords(troubles: Schemas["Trouble"][], own: string | undefined) {
	const [one] = troubles;
	if (!one || troubles.length > 1) return `${troubles.length} cannot`;
	return `${one.email === own ? "you" : one.name} ${one.short}`;
}

/** "Goes to Tomé Akande, Rui Calado and S. Onari (outside); books Map Room" */
function reach({ sheet, draft, day }: Part) {
	if (sheet.faults.length > 0) return "Not ready to send";
	const name = (d: (typeof sheet.due)[number]) =>
		`${d.name}${d.outside ? " (outside)" : ""}${d.kind === "calloff" ? " (dropped)" : ""}`;
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const room = draft.roomId && lane?.room.name;
	const names = new Set(sheet.due.map((d) => d.name));
	const to =
		sheet.due.length > 3 || names.size < sheet.due.length
			? `Goes to ${names.size === 1 ? [...names][0] : `${names.size} people`}${names.size < sheet.due.length ? `, ${sheet.due.length} messages` : ` (${sheet.due.filter((d) => d.outside).length} outside)`}${comings(sheet)}`
			: sheet.due.length === 0
				? sheet.meetingId
					? "Nobody has to hear of it"
					: "Goes to nobody else"
				: `Goes to ${sheet.due.map(name).join(", ")}`;
	return room && !sheet.meetingId ? `${to}; ${lane?.asks ? "asks for" : "books"} ${room}` : to;
}

/** Who is added to a meeting and who dropped, where they are among many. */
function comings(sheet: Part["sheet"]) {
	if (!sheet.meetingId) return "";
	const of = (kind: string) => {
		const names = [...new Set(sheet.due.filter((d) => d.kind === kind).map((d) => d.name))];
		return names.length > 3 ? `${names.slice(0, 2).join(", ")} and ${names.length - 2} more` : names.join(", ");
	};
	const whole = (kind: string) => sheet.due.some((d) => d.kind === kind && d.whole);
	return `${whole("invite") ? `; adds ${of("invite")}` : ""}${whole("calloff") ? `; drops ${of("calloff")}` : ""}`;
}
