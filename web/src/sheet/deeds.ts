import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Schemas, take } from "../api/client";

type Sheet = Schemas["Sheet"];

export const sheetKey = (id: string) => ["sheet", id];

export function useOpenSheet() {
	const queries = useQueryClient();
	const navigate = useNavigate();
	return useMutation({
		mutationFn: (at: { start?: string; end?: string }) => take(api.POST("/api/sheets", { body: at })),
		onSuccess: (sheet) => {
			queries.setQueryData(sheetKey(sheet.id), sheet);
			navigate(`/sheet/${sheet.id}`);
		},
	});
}

export const useSheet = (id: string) =>
	useQuery({ queryKey: sheetKey(id), queryFn: () => take(api.GET("/api/sheets/{id}", { params: { path: { id } } })) });

/** Outlives the window where the browser allows it, which is for bodies up to 64 KiB. */
export const saveSheet = (id: string, version: number, draft: Schemas["Draft"]) =>
	take(
		api.PUT("/api/sheets/{id}", {
			params: { path: { id }, header: { "If-Match": version } },
			body: draft,
			keepalive: JSON.stringify(draft).length < 20_000,
		}),
	);

/** A deed that answers with the sheet as it is then. */
function useSheetDeed<In>(id: string, deed: (input: In) => Promise<Sheet>) {
	const queries = useQueryClient();
	return useMutation({ mutationFn: deed, onSuccess: (sheet) => queries.setQueryData(sheetKey(id), sheet) });
}

export const useAttachLink = (id: string) =>
	useSheetDeed(id, (provider: string) =>
		take(api.POST("/api/sheets/{id}/link", { params: { path: { id } }, body: { provider } })),
	);

export const useDropLink = (id: string) =>
	useSheetDeed(id, (_: undefined) => take(api.DELETE("/api/sheets/{id}/link", { params: { path: { id } } })));

export const useRebase = (id: string) =>
	useSheetDeed(id, (version: number) =>
		take(api.POST("/api/sheets/{id}/rebase", { params: { path: { id }, header: { "If-Match": version } } })),
	);

export function useDiscard(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: () => take(api.DELETE("/api/sheets/{id}", { params: { path: { id } } })),
		onSuccess: () => {
			queries.removeQueries({ queryKey: sheetKey(id) });
			queries.invalidateQueries({ queryKey: ["sheets"] });
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
		onSuccess: () =>
			queries.invalidateQueries({ predicate: (q) => ["week", "sheets", "meeting"].includes(String(q.queryKey[0])) }),
	});
}

export const usePreviews = (id: string, version: number) =>
	useQuery({
		queryKey: ["preview", id, version],
		queryFn: () => take(api.GET("/api/sheets/{id}/preview", { params: { path: { id } } })),
		retry: false,
	});

/** Everybody's day, asked again whenever what it depends on changes. */
export const useDay = (question: Schemas["DayQuestion"] | null) =>
	useQuery({
		queryKey: ["day", question],
		queryFn: () => take(api.POST("/api/day", { body: question as Schemas["DayQuestion"] })),
		enabled: question !== null,
		placeholderData: keepPreviousData,
	});

/** How the dates of a series stand, asked again with every save. */
export const useDates = (sheet: Sheet, filter: { equipment: string[]; siteId: string }) =>
	useQuery({
		queryKey: ["dates", sheet.id, sheet.version, filter],
		queryFn: () =>
			take(
				api.GET("/api/sheets/{id}/dates", {
					params: { path: { id: sheet.id }, query: { equipment: filter.equipment, site: filter.siteId } },
				}),
			),
		enabled: !!sheet.draft.repeat || !!sheet.draft.scope,
		placeholderData: keepPreviousData,
	});

export const useFindPeople = (q: string) =>
	useQuery({
		queryKey: ["directory", q],
		queryFn: () => take(api.GET("/api/directory", { params: { query: { q, limit: 8 } } })),
		enabled: q.trim() !== "",
		placeholderData: keepPreviousData,
		staleTime: 60_000,
	});

export const useRooms = () =>
	useQuery({
		queryKey: ["rooms"],
		queryFn: () => take(api.GET("/api/rooms", { params: { query: { limit: 200 } } })),
		staleTime: 300_000,
	});
