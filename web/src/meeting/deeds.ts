import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Schemas, take } from "../api/client";
import { sheetKey } from "../sheet/deeds";

export const useMeeting = (id: string) =>
	useQuery({
		queryKey: ["meeting", id],
		queryFn: () => take(api.GET("/api/meetings/{id}", { params: { path: { id } } })),
	});

export type Given = Schemas["GiveAnswer"]["answer"];

export function useAnswer(meeting: Schemas["Meeting"]) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (given: { answer: Given; comment: string }) =>
			take(
				api.POST("/api/meetings/{id}/answer", {
					params: { path: { id: meeting.id } },
					body: { ...given, sequence: meeting.mySequence ?? 0 },
				}),
			),
		onSettled: () =>
			queries.invalidateQueries({ predicate: (q) => q.queryKey[0] === "meeting" || q.queryKey[0] === "week" }),
	});
}

export function useChangeMeeting(id: string) {
	const queries = useQueryClient();
	const navigate = useNavigate();
	return useMutation({
		mutationFn: () => take(api.POST("/api/meetings/{id}/sheet", { params: { path: { id } } })),
		onSuccess: (sheet) => {
			queries.setQueryData(sheetKey(sheet.id), sheet);
			navigate(`/sheet/${sheet.id}`);
		},
	});
}

export function useCallOff(meeting: Schemas["Meeting"]) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (word: string) =>
			take(
				api.POST("/api/meetings/{id}/calloff", {
					params: { path: { id: meeting.id }, header: { "If-Match": meeting.version } },
					body: { word },
				}),
			),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "me" }),
	});
}
