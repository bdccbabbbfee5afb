import { useQuery } from "@tanstack/react-query";
import type { Temporal } from "temporal-polyfill";
import { api, take } from "../api/client";
import { keys } from "../api/keys";

export const useWeek = (from: Temporal.PlainDate) =>
	useQuery({
		queryKey: keys.week(from.toString()),
		queryFn: () => take(api.GET("/api/weeks", { params: { query: { from: from.toString(), days: 7 } } })),
		placeholderData: (before) => before,
	});

export const useDrafts = () =>
	useQuery({
		queryKey: keys.sheets,
		queryFn: () => take(api.GET("/api/sheets", { params: { query: { limit: 8 } } })),
	});
