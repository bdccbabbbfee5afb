import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Temporal } from "temporal-polyfill";
import { api, type Schemas, take } from "../api/client";
import { anyOf, keys } from "../api/keys";

const asked = (from: Temporal.PlainDate) => ({
	queryKey: keys.week(from.toString()),
	queryFn: () => take(api.GET("/api/weeks", { params: { query: { from: from.toString(), days: 7 } } })),
});

const watchedIn = (from: Temporal.PlainDate) => ({
	queryKey: keys.watched(from.toString()),
	queryFn: () => take(api.GET("/api/watched", { params: { query: { from: from.toString(), days: 7 } } })),
});

/** A week of one's own; the ones beside it are fetched before they are asked for, with the time of those watched. */
export function useWeek(from: Temporal.PlainDate) {
	const queries = useQueryClient();
	const week = useQuery({ ...asked(from), placeholderData: (before) => before });
	const day = from.toString();
	const here = week.data?.from === day;
	// biome-ignore lint/correctness/useExhaustiveDependencies: by what day it is
	useEffect(() => {
		if (!here) return;
		for (const days of [7, -7]) {
			void queries.prefetchQuery({ ...asked(from.add({ days })), staleTime: 30_000 });
			void queries.prefetchQuery({ ...watchedIn(from.add({ days })), staleTime: 30_000 });
		}
	}, [day, here, queries]);
	return week;
}

/** The time of those who are watched, in a week; it is looked at again now and then, for nobody is told of their meetings. */
export const useWatched = (from: Temporal.PlainDate) =>
	useQuery({ ...watchedIn(from), placeholderData: (before) => before, staleTime: 30_000, refetchInterval: 60_000 });

/** Sets whose time is watched: it is on the page as soon as it is chosen. */
export function useSetWatched() {
	const queries = useQueryClient();
	return useMutation({
		scope: { id: "watched" },
		mutationFn: (items: Schemas["WatchedRef"][]) => take(api.PUT("/api/watched", { body: { items } })),
		onSettled: () => queries.invalidateQueries(anyOf("watched")),
	});
}
