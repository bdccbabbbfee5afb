import { memo, useEffect } from "react";
import { useNavigate } from "react-router";
import { Button, Kbd, Note } from "../ui/kit";
import type { DraftStore } from "./draft/store";
import type { Part } from "./part";
import type { Sending } from "./useSending";

type Standing = { name: string; open?: string; broken?: boolean };

/** What is still unsettled, and exactly whom Send reaches. */
export const Foot = memo(function Foot(part: Part & { store: DraftStore; sending: Sending; onLook: () => void }) {
	const { sheet, store, sending, onLook } = part;
	const navigate = useNavigate();
	const go = sending.go;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
			e.preventDefault();
			(document.activeElement as HTMLElement | null)?.blur();
			setTimeout(() => void go(), 0);
		};
		window.addEventListener("keydown", hear);
		return () => window.removeEventListener("keydown", hear);
	}, [go]);
	const word = sheet.meetingId ? "Send changes" : "Send";
	return (
		<footer className="sticky bottom-0 z-10 [@media(max-height:520px)]:static border-rule border-t bg-sheet px-5 text-body">
			{sending.problem && (
				<div className="pt-2">
					<Note tone="brick">{sending.problem.detail}</Note>
				</div>
			)}
			<div className="flex min-h-14 flex-wrap items-center gap-x-4 gap-y-2 py-2 lg:flex-nowrap">
				<ul aria-label="What is settled" className="flex flex-wrap gap-x-3.5">
					{standings(part).map((s) => (
						<li key={s.name} className={`font-[650] ${s.broken ? "text-brick" : s.open ? "text-honey" : "text-moss"}`}>
							<span aria-hidden>{s.open ? "!" : "✓"}</span> {s.name}
							{s.open && `: ${s.open}`}
						</li>
					))}
				</ul>
				<span className="ml-auto min-w-0 text-right text-quiet">{reach(part)}</span>
				<Button onClick={() => store.save().then((ok) => ok && navigate("/weeks"))}>Keep as draft</Button>
				<Button onClick={onLook}>See the invitation</Button>
				<Button look="go" busy={sending.busy} onClick={() => void go()}>
					{word}
					<Kbd onDark>Ctrl ↵</Kbd>
				</Button>
			</div>
		</footer>
	);
});

function standings({ sheet, draft, day, dates }: Part): Standing[] {
	const fault = (...fields: string[]) =>
		sheet.faults.find((f) => fields.some((x) => f.field === x || f.field.startsWith(`${x}.`)));
	const time = fault("start", "end", "zone", "repeat", "dates", "scope");
	const meant = dates?.dates.filter((d) => d.inScope) ?? [];
	const roomless = meant.filter((d) => d.state === "noroom").length;
	const clashing = meant.filter((d) => d.state === "busy").length;
	const who = fault("people");
	const room = fault("room");
	const busy = day?.troubles.filter((t) => t.hard && t.needed) ?? [];
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const text = fault("title", "text");
	return [
		{
			name: "When",
			open:
				time?.detail ??
				(clashing > 0
					? `${datesWords(clashing)} ${clashing === 1 ? "clashes" : "clash"}`
					: busy.length > 0 && !dates
						? busyWords(busy.map((t) => (t.email === day?.lanes.find((l) => l.you)?.email ? "you" : t.name)))
						: undefined),
			broken: !!time,
		},
		{ name: "Who", open: who?.detail ?? (draft.people.length === 0 ? "only you" : undefined), broken: !!who },
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
		{ name: "Link", open: !sheet.card && !draft.noLink ? "none yet" : undefined },
		...(text
			? [
					{
						name: text.field === "title" ? "Title" : "Text",
						open: text.field === "title" && !sheet.draft.title.trim() ? "none yet" : "too long",
						broken: true,
					},
				]
			: []),
	];
}

const datesWords = (n: number) => (n === 1 ? "1 date" : `${n} dates`);

const busyWords = (names: string[]) =>
	names.length > 1 ? `${names.length} are busy` : names[0] === "you" ? "you are busy" : `${names[0]} is busy`;

/** "Goes to Tomé Akande, Rui Calado and S. Onari (outside); books Map Room" */
function reach({ sheet, draft, day }: Part) {
	if (sheet.faults.length > 0) return "Not ready to send";
	const name = (d: (typeof sheet.due)[number]) =>
		`${d.name}${d.outside ? " (outside)" : ""}${d.kind === "calloff" ? " (dropped)" : ""}`;
	const room = draft.roomId && day?.rooms.find((r) => r.room.id === draft.roomId)?.room.name;
	const names = new Set(sheet.due.map((d) => d.name));
	const to =
		sheet.due.length > 3 || names.size < sheet.due.length
			? `Goes to ${names.size === 1 ? [...names][0] : `${names.size} people`}${names.size < sheet.due.length ? `, ${sheet.due.length} messages` : ` (${sheet.due.filter((d) => d.outside).length} outside)`}`
			: sheet.due.length === 0
				? sheet.meetingId
					? "Nobody has to hear of it"
					: "Goes to nobody else"
				: `Goes to ${sheet.due.map(name).join(", ")}`;
	return room && !sheet.meetingId ? `${to}; books ${room}` : to;
}
