import type { QueryKey } from "@tanstack/react-query";

/** The names of everything that is asked of the program, in this one place. The first part says what it is. */
export const keys = {
	me: ["me"],
	week: (from: string) => ["week", from],
	watched: (from: string) => ["watched", from],
	hours: ["hours"],
	leave: (id: string) => ["leave", id],
	roomFeed: (id: string) => ["roomFeed", id],
	sheets: ["sheets"],
	sheet: (id: string) => ["sheet", id],
	callsOf: (id: string) => ["calls", id],
	calls: (id: string, version: number) => ["calls", id, version],
	cardFor: (id: string, version: number, reader: number) => ["calls", id, version, "card", reader],
	readCard: (text: string) => ["readCard", text],
	zones: ["zones"],
	standing: ["standing"],
	providers: ["providers"],
	provider: (key: string) => ["provider", key],
	providerSchema: ["providerSchema"],
	roomsAt: (provider: string) => ["roomsAt", provider],
	dates: (id: string, about: unknown) => ["dates", id, about],
	day: (question: unknown) => ["day", question],
	seriesOpenings: (id: string, about: unknown) => ["seriesOpenings", id, about],
	openings: (question: unknown) => ["openings", question],
	previews: (id: string, version: number) => ["previews", id, version],
	letter: (id: string, version: number, number: number) => ["letter", id, version, number],
	today: ["today"],
	sent: (search: unknown) => ["sent", search],
	ways: (id: string) => ["ways", id],
	asSent: (id: string) => ["asSent", id],
	meeting: (id: string) => ["meeting", id],
	invitation: (id: string) => ["invitation", id],
	invitationAddress: ["invitationAddress"],
	proposals: (id: string) => ["proposals", id],
	callOff: (id: string, version: number, reach: unknown) => ["callOff", id, version, reach],
	directory: (q: string) => ["directory", q],
	rooms: ["rooms"],
	room: (id: string, from: string) => ["room", id, from],
	roomsDay: (day: string, wish: unknown) => ["roomsDay", day, wish],
	news: (offset: number) => ["news", offset],
	allNews: ["news"],
	fresh: ["fresh"],
	found: (q: string) => ["found", q],
	month: (from: string) => ["month", from],
	guest: (token: string) => ["guest", token],
	address: (code: string) => ["address", code],
	words: (language: string) => ["words", language],
} as const;

/** Which of what is asked is one of these, for asking it anew. */
export const anyOf = (...what: (keyof typeof keys)[]) => ({
	predicate: (q: { queryKey: QueryKey }) => what.includes(q.queryKey[0] as keyof typeof keys),
});

/** What a window is told of: the kind of thing that changed, and which. */
export type Notice = { topic: string; id?: string; window?: string };

/**
 * Whether what a notice tells of shows in what a key names. A meeting takes people's time and rooms, so that every
 * week, day and list of dates may show it; a sheet is in the list of sheets, and changes what its meeting page says.
 */
export function shows(key: QueryKey, notice: Notice): boolean {
	const [what, id] = key;
	switch (notice.topic) {
		case "all":
			return what !== "me" && what !== "rooms" && what !== "directory" && what !== "fresh";
		case "meeting":
			return what === "meeting" || what === "proposals"
				? id === notice.id
				: [
						"week",
						"watched",
						"leave",
						"hours",
						"day",
						"dates",
						"openings",
						"seriesOpenings",
						"roomsDay",
						"room",
						"sheet",
						"news",
						"found",
						"sent",
						"ways",
						"today",
						"month",
					].includes(what as string);
		case "invitation":
			return what === "invitation"
				? id === notice.id
				: ["week", "today", "day", "dates", "openings", "seriesOpenings", "watched", "month"].includes(what as string);
		case "hours":
			return ["hours", "leave", "week", "today", "day", "dates", "openings", "seriesOpenings", "month", "me"].includes(
				what as string,
			);
		case "room":
			return ["room", "roomsDay", "rooms", "day", "news"].includes(what as string);
		case "today":
			return what === "today";
		case "news":
			return what === "news";
		case "sheet":
			return (
				what === "sheets" ||
				what === "today" ||
				((what === "sheet" || what === "calls" || what === "dates" || what === "seriesOpenings") && id === notice.id)
			);
	}
	return false;
}
