import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "./client";
import { shows } from "./keys";

export type Given = Schemas["GiveAnswer"]["answer"];

/** An answer to all dates, or to one: `on` and the state of that date then. */
export type GivenAnswer = { answer: Given; comment: string; on?: string; sequence?: number };

/** Answers to a meeting as it was at `sequence`, inside. */
export function useGiveAnswer(meetingId: string, sequence: number) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (given: GivenAnswer) =>
			take(
				api.POST("/api/meetings/{id}/answer", {
					params: { path: { id: meetingId } },
					body: { sequence, ...given },
				}),
			),
		onSettled: () =>
			queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id: meetingId }) }),
	});
}
