import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { shortDay } from "../time/format";
import type { Part } from "./part";
import type { PartName } from "./useSheetKeys";

/** What the foot of a sheet looks at. */
export type Standing = Pick<Part, "sheet" | "draft" | "day" | "dates">;

export type PartStanding = { name: PartName; open?: string; broken?: boolean };

/** Which dates of a series a change is for, in words that cannot be missed. */
export function meantWords(scope: NonNullable<Part["draft"]["scope"]>, dates: Schemas["SheetDate"][] | undefined) {
	const free = dates?.filter((d) => d.scope !== "" && d.state !== "held") ?? [];
	const day = (on: string) => shortDay(Temporal.PlainDate.from(on));
	if (scope.from === scope.to) return `Only ${day(scope.from)}`;
	if (scope.to !== "") return `${day(scope.from)} to ${day(scope.to)}`;
	return free[0] && free[0].scope < scope.from ? `From ${day(scope.from)} on` : "All dates to come";
}

/** How each part of the sheet stands: what is still open, and whether that keeps it from being sent. */
export function standings({ sheet, draft, day, dates }: Standing): PartStanding[] {
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
export function reach({ sheet, draft, day }: Standing) {
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
function comings(sheet: Standing["sheet"]) {
	if (!sheet.meetingId) return "";
	const of = (kind: string) => {
		const names = [...new Set(sheet.due.filter((d) => d.kind === kind).map((d) => d.name))];
		return names.length > 3 ? `${names.slice(0, 2).join(", ")} and ${names.length - 2} more` : names.join(", ");
	};
	const whole = (kind: string) => sheet.due.some((d) => d.kind === kind && d.whole);
	return `${whole("invite") ? `; adds ${of("invite")}` : ""}${whole("calloff") ? `; drops ${of("calloff")}` : ""}`;
}
