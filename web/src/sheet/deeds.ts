import { keepPreviousData, replaceEqualDeep, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";
import { useSettled } from "../api/settled";
import { fold } from "../time/zones";

type Sheet = Schemas["Sheet"];

export const useSheet = (id: string) =>
	useQuery({
		queryKey: keys.sheet(id),
		queryFn: () => take(api.GET("/api/sheets/{id}", { params: { path: { id } } })),
		// One that was only begun is in this window alone.
		enabled: (q) => q.state.data?.version !== 0,
		structuralSharing: (was, is) => newer(was as Sheet | undefined, is as Sheet),
	});

/** The later of two states of a sheet: a reading that was under way tells of the time before a deed. */
export const newer = (was: Sheet | undefined, is: Sheet) =>
	was && was.version > is.version ? was : replaceEqualDeep(was, is);

/** Outlives the window where the browser allows it, which is for bodies up to 64 KiB. */
export const saveSheet = (id: string, version: number, draft: Schemas["Draft"], typing: string) =>
	take(
		api.PUT("/api/sheets/{id}", {
			params: { path: { id }, header: { "If-Match": version }, query: typing ? { typing } : {} },
			body: draft,
			keepalive: JSON.stringify(draft).length < 20_000,
		}),
	);

/** Brings a file as it is; a sheet can name it then. */
export const addFile = (file: File) =>
	take(
		api.POST("/api/files", {
			params: { query: { name: file.name } },
			body: file as unknown as string,
			bodySerializer: (body) => body,
			headers: { "Content-Type": "application/octet-stream" },
		}),
	);

/** A deed that answers with the sheet as it is then. */
function useSheetDeed<In>(id: string, deed: (input: In) => Promise<Sheet>) {
	const queries = useQueryClient();
	return useMutation({ mutationFn: deed, onSuccess: (sheet) => queries.setQueryData(keys.sheet(id), sheet) });
}

export const useWait = (id: string) =>
	useSheetDeed(id, (_: undefined) => take(api.POST("/api/sheets/{id}/wait", { params: { path: { id } } })));

export const useStopWaiting = (id: string) =>
	useSheetDeed(id, (_: undefined) => take(api.DELETE("/api/sheets/{id}/wait", { params: { path: { id } } })));

/** Has the sheet go out by itself: at the end of the time to take it back, or at a moment as it is typed. */
export const useSendLater = (id: string) =>
	useSheetDeed(id, ({ version, at }: { version: number; at?: string }) =>
		take(
			api.POST("/api/sheets/{id}/later", {
				params: { path: { id }, header: { "If-Match": version } },
				body: at === undefined ? {} : { at },
			}),
		),
	);

export const useTakeBack = (id: string) =>
	useSheetDeed(id, (_: undefined) => take(api.DELETE("/api/sheets/{id}/later", { params: { path: { id } } })));

export const useRebase = (id: string) =>
	useSheetDeed(id, (version: number) =>
		take(api.POST("/api/sheets/{id}/rebase", { params: { path: { id }, header: { "If-Match": version } } })),
	);

export function useDiscard(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: () => take(api.DELETE("/api/sheets/{id}", { params: { path: { id } } })),
		onSuccess: () => {
			queries.removeQueries({ queryKey: keys.sheet(id) });
			queries.invalidateQueries({ queryKey: keys.sheets });
		},
	});
}

export function useSend(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: ({ version, key }: { version: number; key: string }) =>
			take(
				api.POST("/api/sheets/{id}/send", {
					params: { path: { id }, header: { "If-Match": version, "Idempotency-Key": key } },
				}),
			),
		onSuccess: (sent) => {
			// The sheet itself is gone.
			queries.invalidateQueries({
				predicate: (q) => q.queryKey[1] !== id && shows(q.queryKey, { topic: "meeting", id: sent.meetingId }),
			});
			queries.invalidateQueries({ queryKey: keys.sheets });
		},
	});
}

export const usePreviews = (id: string, version: number) =>
	useQuery({
		queryKey: keys.previews(id, version),
		queryFn: () => take(api.GET("/api/sheets/{id}/preview", { params: { path: { id } } })),
		retry: false,
	});

/** One message as text; only the one that is looked at is written. */
export const useLetter = (id: string, version: number, number: number, wanted: boolean) =>
	useQuery({
		enabled: wanted,
		queryKey: keys.letter(id, version, number),
		queryFn: () => take(api.GET("/api/sheets/{id}/preview/{number}", { params: { path: { id, number } } })),
		retry: false,
	});

/** How long a question waits for the hand to rest. */
const rest = 200;

/** Everybody's day, asked again when what it depends on has changed and rests. */
export function useDay(now: Schemas["DayQuestion"] | null) {
	const question = useSettled(now, rest);
	return useQuery({
		queryKey: keys.day(question),
		queryFn: () => take(api.POST("/api/day", { body: question as Schemas["DayQuestion"] })),
		enabled: question !== null,
		placeholderData: keepPreviousData,
	});
}

/**
 * The best times for everybody on a sheet; asked again when what they depend on rests, and now and then: nobody is told
 * when colleagues change their hours or their other calendars do.
 */
export function useOpenings(now: Schemas["OpeningsQuestion"] | null) {
	const question = useSettled(now, 2 * rest);
	return useQuery({
		queryKey: keys.openings(question),
		queryFn: () => take(api.POST("/api/openings", { body: question as Schemas["OpeningsQuestion"] })),
		enabled: question !== null,
		placeholderData: keepPreviousData,
		staleTime: 30_000,
		refetchInterval: 60_000,
	});
}

/** How the dates of a series stand: asked again when something is saved that they depend on. */
export const useDates = (sheet: Sheet, filter: { equipment: string[]; siteId: string }) =>
	useQuery({
		queryKey: keys.dates(sheet.id, [datesDependOn(sheet), filter]),
		queryFn: () =>
			take(
				api.GET("/api/sheets/{id}/dates", {
					params: { path: { id: sheet.id }, query: { equipment: filter.equipment, site: filter.siteId } },
				}),
			),
		enabled: !!sheet.draft.repeat || !!sheet.draft.scope,
		placeholderData: keepPreviousData,
	});

/** The best times for all dates of a series that is not sent yet. */
export const useSeriesOpenings = (
	sheet: Sheet,
	filter: { equipment: string[]; siteId: string },
	from: number,
	to: number,
) =>
	useQuery({
		queryKey: keys.seriesOpenings(sheet.id, [datesDependOn(sheet), filter, from, to]),
		queryFn: () =>
			take(
				api.GET("/api/sheets/{id}/openings", {
					params: { path: { id: sheet.id }, query: { from, to, equipment: filter.equipment, site: filter.siteId } },
				}),
			),
		enabled: sheet.version > 0 && !!sheet.draft.repeat && !sheet.draft.scope && !sheet.draft.allDay,
		placeholderData: keepPreviousData,
		staleTime: 30_000,
	});

/** What of a sheet its dates depend on: not its words. */
function datesDependOn(sheet: Sheet) {
	const { start, end, zone, people, roomId, noRoom, repeat, dates, scope } = sheet.draft;
	return [start, end, zone, people, roomId, noRoom, repeat, dates, scope, sheet.stale, sheet.card?.url];
}

/**
 * People by any part of their name. Where all who match earlier letters are known, those who match more are among them
 * and the program is not asked.
 */
export function useFindPeople(typed: string) {
	const queries = useQueryClient();
	const q = useSettled(typed.trim(), rest);
	return useQuery({
		initialData: () => amongKnown(q, (part) => queries.getQueryData<Schemas["Entries"]>(keys.directory(part))),
		queryKey: keys.directory(q),
		queryFn: () => take(api.GET("/api/directory", { params: { query: { q: q.slice(0, 100), limit: 8 } } })),
		enabled: q !== "",
		placeholderData: keepPreviousData,
		staleTime: 60_000,
	});
}

export const useRooms = () =>
	useQuery({
		queryKey: keys.rooms,
		queryFn: () => take(api.GET("/api/rooms", { params: { query: { limit: 200 } } })),
		staleTime: 300_000,
	});

/** All sheets that were begun and not sent, a page of them. */
export const useSheets = (limit: number, offset = 0) =>
	useQuery({
		queryKey: [...keys.sheets, limit, offset],
		queryFn: () => take(api.GET("/api/sheets", { params: { query: { limit, offset } } })),
		placeholderData: keepPreviousData,
	});

export function useDiscardSheets() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (ids: string[]) => take(api.POST("/api/sheets/discard", { body: { ids } })),
		onSuccess: (_, ids) => {
			for (const id of ids) queries.removeQueries({ queryKey: keys.sheet(id) });
			queries.invalidateQueries({ queryKey: keys.sheets });
		},
	});
}

function amongKnown(q: string, known: (part: string) => Schemas["Entries"] | undefined) {
	for (let n = q.length - 1; n > 0; n--) {
		const all = known(q.slice(0, n));
		if (all && !all.more)
			return {
				items: all.items.filter((e) => fold(`${e.name} ${e.email} ${e.outside ? e.about : ""}`).includes(fold(q))),
				more: false,
			};
	}
	return;
}
