import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Temporal } from "temporal-polyfill";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";

const asked = (from: Temporal.PlainDate) => ({
	queryKey: keys.week(from.toString()),
	queryFn: () => take(api.GET("/api/weeks", { params: { query: { from: from.toString(), days: 7 } } })),
});

/** A week of one's own; the ones beside it are fetched before they are asked for. */
export function useWeek(from: Temporal.PlainDate) {
	const queries = useQueryClient();
	const week = useQuery({ ...asked(from), placeholderData: (before) => before });
	const day = from.toString();
	const here = week.data?.from === day;
	// biome-ignore lint/correctness/useExhaustiveDependencies: by what day it is
	useEffect(() => {
		if (!here) return;
		for (const days of [7, -7]) void queries.prefetchQuery({ ...asked(from.add({ days })), staleTime: 30_000 });
	}, [day, here, queries]);
	return week;
}

/** The time of those who are watched, in a week; it is looked at again now and then, for nobody is told of their meetings. */
export function useWatched(from: Temporal.PlainDate) {
	const day = from.toString();
	return useQuery({
		queryKey: keys.watched(day),
		queryFn: () => take(api.GET("/api/watched", { params: { query: { from: day, days: 7 } } })),
		placeholderData: (before) => before,
		refetchInterval: 60_000,
	});
}

export function useSetWatched() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (items: Schemas["WatchedRef"][]) => take(api.PUT("/api/watched", { body: { items } })),
		onSettled: () => queries.invalidateQueries({ queryKey: ["watched"] }),
	});
}
