import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";
import { keys } from "../api/keys";
import { useSettled } from "../api/settled";

/** How long a search waits for the hand to rest. */
const rest = 250;

/** Meetings by words, and the day that what was typed is. */
export function useFound(typed: string) {
	const q = useSettled(typed.trim(), rest);
	const found = useQuery({
		queryKey: keys.found(q),
		queryFn: () => take(api.GET("/api/find", { params: { query: { q: q.slice(0, 200), limit: 12 } } })),
		enabled: q.length > 1,
		placeholderData: keepPreviousData,
		staleTime: 30_000,
	});
	return { ...found, settled: q === typed.trim() && !found.isPlaceholderData };
}

export const useMonth = (from: string, days: number) =>
	useQuery({
		queryKey: keys.month(from),
		queryFn: () => take(api.GET("/api/month", { params: { query: { from, days } } })),
		placeholderData: keepPreviousData,
		staleTime: 30_000,
	});
