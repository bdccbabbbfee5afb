import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";

export type LooseEnd = Schemas["LooseEnd"];
export type TodayItem = Schemas["TodayItem"];

/** The day moves on by itself; what changes in it is told. */
export const useToday = () =>
	useQuery({
		queryKey: keys.today,
		queryFn: () => take(api.GET("/api/today")),
		staleTime: 30_000,
		refetchInterval: 5 * 60_000,
	});

/** How many loose ends there are, wherever one is. */
export const useLoose = () => useToday().data?.ends.length ?? 0;

/** What can be done about a loose end at one press. */
export type Mend =
	| { what: "room"; roomId: string }
	| { what: "again"; address?: string }
	| { what: "told" }
	| { what: "ask" }
	| { what: "extend" }
	| { what: "count"; as?: string; answer?: Schemas["GiveAnswer"]["answer"]; invite?: boolean }
	| { what: "letBe" };

function mend(e: LooseEnd, m: Mend) {
	const meeting = { path: { id: e.meetingId ?? "" } };
	const message = { path: { id: e.dispatchId ?? "" } };
	switch (m.what) {
		case "room":
			return take(api.POST("/api/meetings/{id}/take-room", { params: meeting, body: { roomId: m.roomId, on: e.on } }));
		case "again":
			return take(api.POST("/api/dispatches/{id}/again", { params: message, body: { address: m.address } }));
		case "told":
			return take(api.POST("/api/dispatches/{id}/told", { params: message, body: { how: "told" } }));
		case "ask":
			return take(api.POST("/api/participants/{id}/ask-again", { params: { path: { id: e.participantId ?? "" } } }));
		case "extend":
			return take(api.POST("/api/meetings/{id}/extend", { params: meeting }));
		case "count":
			return take(
				api.POST("/api/meetings/{id}/letters/{letterId}", {
					params: { path: { id: e.meetingId ?? "", letterId: e.letterId ?? "" } },
					body: { countFor: m.as, answer: m.answer, invite: m.invite },
				}),
			);
		case "letBe":
			return take(api.POST("/api/today/let-be", { body: { key: e.key } }));
	}
}

export function useMend(e: LooseEnd) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (m: Mend) => mend(e, m),
		onSettled: () =>
			queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id: e.meetingId ?? "" }) }),
	});
}
