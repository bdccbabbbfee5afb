import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";

export type NewsItem = Schemas["News"];

/** How much of what is new is listed at once. */
export const aPage = 20;

export const useNews = (offset: number) =>
	useQuery({
		queryKey: keys.news(offset),
		queryFn: () => take(api.GET("/api/news", { params: { query: { limit: aPage, offset } } })),
		placeholderData: keepPreviousData,
		staleTime: 60_000,
	});

/** How much is not read, wherever one is. */
export const useUnread = () => useNews(0).data?.unread ?? 0;

export function useReadNews() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (what: Schemas["ReadNews"]) => take(api.POST("/api/news/read", { body: what })),
		onSuccess: () => queries.invalidateQueries({ queryKey: keys.allNews }),
	});
}
