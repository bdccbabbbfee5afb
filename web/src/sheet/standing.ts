import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { shortDay } from "../time/format";
import { many, t } from "../tongue/tongue";
import type { Part } from "./part";
import type { PartName } from "./useSheetKeys";

/** What the foot of a sheet looks at. */
export type Standing = Pick<Part, "sheet" | "draft" | "day" | "dates">;

export type PartStanding = { name: PartName; open?: string; broken?: boolean };

/** Which dates of a series a change is for, in words that cannot be missed. */
export function meantWords(scope: NonNullable<Part["draft"]["scope"]>, dates: Schemas["SheetDate"][] | undefined) {
	const free = dates?.filter((d) => d.scope !== "" && d.state !== "held") ?? [];
	const day = (on: string) => shortDay(Temporal.PlainDate.from(on));
	if (scope.from === scope.to) return t("Only %s", day(scope.from));
	if (scope.to !== "") return t("%s to %s", day(scope.from), day(scope.to));
	return free[0] && free[0].scope < scope.from ? t("From %s on", day(scope.from)) : t("All dates to come");
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
	const busy = day?.troubles.filter((x) => x.blocks) ?? [];
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const text = fault("title", "text", "cover");
	const files = fault("files");
	return [
		{
			name: "When",
			open:
				time?.detail ??
				(clashing > 0
					? many(clashing, "1 date clashes", "%d dates clash")
					: busy.length > 0 && !dates
						? busyWords(busy, day?.lanes.find((l) => l.you)?.email)
						: undefined),
			broken: !!time,
		},
		{
			name: "Who",
			open:
				sheet.unclear.length > 0
					? t("say who is meant")
					: (who?.detail ?? (draft.people.length === 0 ? t("only you") : undefined)),
			broken: !!who,
		},
		{
			name: "Where",
			open:
				room?.detail ??
				(roomless > 0
					? many(roomless, "1 date without a room", "%d dates without a room")
					: lane && !lane.clear && !dates
						? t("%s is taken", lane.room.name)
						: !draft.roomId && !draft.noRoom
							? t("no room yet")
							: undefined),
			broken: !!room || roomless > 0 || (!!lane && !lane.clear && !dates),
		},
		{
			name: "Link",
			open:
				sheet.card && sheet.link.ways.length > 0
					? t("two ways in")
					: sheet.card?.follows
						? t("follows")
						: !sheet.card && !draft.noLink
							? t("none yet")
							: sheet.link.over.length > 0
								? t("over the plan")
								: sheet.link.overlaps.length > 0
									? t("room in use")
									: undefined,
			broken: !!sheet.card && sheet.link.ways.length > 0,
		},
		...(text && !(sheet.card && sheet.link.ways.some((w) => w.field === text.field))
			? [
					{
						name: (text.field === "title" ? "Title" : "Text") as PartName,
						open: text.field === "title" && !sheet.draft.title.trim() ? t("none yet") : t("too long"),
						broken: true,
					},
				]
			: []),
		...(files ? [{ name: "Files" as PartName, open: files.detail, broken: true }] : []),
	];
}

/** Who cannot, and why where it is one: somebody on leave is not busy. */
function busyWords(troubles: Schemas["Trouble"][], own: string | undefined) {
	const [one] = troubles;
	if (!one || troubles.length > 1) return t("%s cannot", troubles.length);
	return `${one.email === own ? t("you") : one.name} ${one.short}`;
}

/** "Goes to Tomé Akande, Rui Calado and S. Onari (outside); books Map Room" */
export function reach({ sheet, draft, day }: Standing) {
	if (sheet.faults.length > 0) return t("Not ready to send");
	const name = (d: (typeof sheet.due)[number]) =>
		`${d.name}${d.outside ? ` (${t("outside")})` : ""}${d.kind === "calloff" ? ` (${t("dropped")})` : ""}`;
	const lane = day?.rooms.find((r) => r.room.id === draft.roomId);
	const room = draft.roomId && lane?.room.name;
	const names = new Set(sheet.due.map((d) => d.name));
	const to =
		sheet.due.length > 3 || names.size < sheet.due.length
			? (names.size < sheet.due.length
					? t("Goes to %s, %s messages", whom(names), sheet.due.length)
					: t("Goes to %s (%s outside)", whom(names), sheet.due.filter((d) => d.outside).length)) + comings(sheet)
			: sheet.due.length === 0
				? sheet.meetingId
					? t("Nobody has to hear of it")
					: t("Goes to nobody else")
				: t("Goes to %s", sheet.due.map(name).join(", "));
	if (!room || sheet.meetingId) return to;
	return `${to}; ${lane?.asks ? t("asks for %s", room) : t("books %s", room)}`;
}

const whom = (names: Set<string>) =>
	names.size === 1 ? ([...names][0] ?? "") : many(names.size, "1 person", "%d people");

/** Who is added to a meeting and who dropped, where they are among many. */
function comings(sheet: Standing["sheet"]) {
	if (!sheet.meetingId) return "";
	const of = (kind: string) => {
		const names = [...new Set(sheet.due.filter((d) => d.kind === kind).map((d) => d.name))];
		return names.length > 3 ? t("%s and %s more", names.slice(0, 2).join(", "), names.length - 2) : names.join(", ");
	};
	const whole = (kind: string) => sheet.due.some((d) => d.kind === kind && d.whole);
	return [whole("invite") && t("adds %s", of("invite")), whole("calloff") && t("drops %s", of("calloff"))]
		.map((words) => (words ? `; ${words}` : ""))
		.join("");
}
