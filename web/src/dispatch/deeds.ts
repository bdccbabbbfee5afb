import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { anyOf, keys } from "../api/keys";

export type SentMeeting = Schemas["SentMeeting"];
export type SentLine = Schemas["SentLine"];
export type DispatchDetail = Schemas["DispatchDetail"];

/** How many meetings are listed at once. */
export const aPage = 20;

export type Search = { troubled: boolean; house: boolean; words: string; offset: number };

export const useSent = (search: Search) =>
	useQuery({
		queryKey: keys.sent(search),
		queryFn: () => take(api.GET("/api/dispatches", { params: { query: { ...search, limit: aPage } } })),
		placeholderData: keepPreviousData,
		staleTime: 60_000,
	});

export const useWays = (id: string) =>
	useQuery({
		queryKey: keys.ways(id),
		queryFn: () => take(api.GET("/api/dispatches/{id}", { params: { path: { id } } })),
	});

export const useMessage = (id: string, wanted: boolean) =>
	useQuery({
		queryKey: keys.asSent(id),
		queryFn: () => take(api.GET("/api/dispatches/{id}/message", { params: { path: { id } } })),
		enabled: wanted,
		staleTime: Number.POSITIVE_INFINITY,
	});

/** Reads again what shows messages, after one was sent or told of. */
function useReread() {
	const queries = useQueryClient();
	return () => queries.invalidateQueries(anyOf("sent", "ways", "meeting", "week", "today"));
}

export function useSendAgain(id: string) {
	const reread = useReread();
	return useMutation({
		mutationFn: (address?: string) =>
			take(api.POST("/api/dispatches/{id}/again", { params: { path: { id } }, body: { address } })),
		onSuccess: reread,
	});
}

export function useRenewPage(id: string) {
	const reread = useReread();
	return useMutation({
		mutationFn: () => take(api.POST("/api/dispatches/{id}/page", { params: { path: { id } } })),
		onSuccess: reread,
	});
}

export function useMarkTold(id: string) {
	const reread = useReread();
	return useMutation({
		mutationFn: (how: "told" | "text") =>
			take(api.POST("/api/dispatches/{id}/told", { params: { path: { id } }, body: { how } })),
		onSuccess: reread,
	});
}
