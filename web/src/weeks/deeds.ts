import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Temporal } from "temporal-polyfill";
import { api, take } from "../api/client";
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
