import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNavigate } from "react-router";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";
import type { Person } from "./person";
import { beginTypeAhead } from "./typeAhead";

type Sheet = Schemas["Sheet"];

/** A sheet as it begins, ready before somebody asks for one; its time follows the clock. */
export const useFresh = () =>
	useQuery({
		queryKey: keys.fresh,
		queryFn: () => take(api.GET("/api/sheets/fresh")),
		staleTime: 120_000,
		refetchInterval: 300_000,
	});

/**
 * Begins a sheet: it is on the screen at once, and is kept by the program from the first thing that is written on it.
 */
export function useOpenSheet() {
	const queries = useQueryClient();
	const navigate = useNavigate();
	const fresh = useFresh().data;
	return useCallback(
		(at: BeginWith) => {
			const id = crypto.randomUUID();
			const state: Begun = { begun: at };
			if (fresh) queries.setQueryData(keys.sheet(id), begin(fresh, id, at));
			beginTypeAhead();
			navigate(`/sheet/${id}`, { state, flushSync: true });
		},
		[fresh, queries, navigate],
	);
}

/** What a window remembers of a sheet that was begun in it: the time it was begun with. */
export type Begun = { begun?: BeginWith };

/** What a sheet begins with: a stretch of time, a room, people. */
export type BeginWith = { start?: string; end?: string; roomId?: string; people?: Person[] };

export const begin = (fresh: Sheet, id: string, { start, end, roomId, people }: BeginWith): Sheet => ({
	...fresh,
	id,
	version: 0,
	draft: { ...fresh.draft, ...(start && end && { start, end }), ...(roomId && { roomId }), ...(people && { people }) },
});
