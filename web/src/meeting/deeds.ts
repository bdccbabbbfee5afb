import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";
import type { Reach } from "../series/Bracket";

export const useMeeting = (id: string) =>
	useQuery({
		queryKey: keys.meeting(id),
		queryFn: () => take(api.GET("/api/meetings/{id}", { params: { path: { id } } })),
	});

/** Settles a mail whose answer did not count by itself. */
export function useDecideLetter(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: ({ letterId, ...body }: Schemas["DecideLetter"] & { letterId: string }) =>
			take(api.POST("/api/meetings/{id}/letters/{letterId}", { params: { path: { id, letterId } }, body })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

/** A deed about the short address of a meeting. */
function useAddressDeed<In>(id: string, deed: (input: In) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

export const useGiveAddress = (id: string) =>
	useAddressDeed(id, (asks: boolean) =>
		take(api.PUT("/api/meetings/{id}/address", { params: { path: { id } }, body: { asks } })),
	);

export const useWithdrawAddress = (id: string) =>
	useAddressDeed(id, (_: undefined) => take(api.DELETE("/api/meetings/{id}/address", { params: { path: { id } } })));

/** Invites somebody whom one brings along. */
export function useBring(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["Brings"]) =>
			take(api.POST("/api/meetings/{id}/bring", { params: { path: { id } }, body })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

/** Sets when one is reminded besides. */
export function useRemindMe(id: string) {
	const queries = useQueryClient();
	return useMutation({
		scope: { id: `reminders ${id}` }, // one after the other: the last one counts
		mutationFn: (reminders: Schemas["OwnReminder"][]) =>
			take(api.PUT("/api/meetings/{id}/reminders", { params: { path: { id } }, body: { reminders } })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

export function useChangeMeeting(id: string) {
	const queries = useQueryClient();
	const navigate = useNavigate();
	return useMutation({
		mutationFn: (opening: Schemas["ChangeMeeting"]) =>
			take(api.POST("/api/meetings/{id}/sheet", { params: { path: { id } }, body: opening })),
		onSuccess: (sheet) => {
			queries.setQueryData(keys.sheet(sheet.id), sheet);
			navigate(`/sheet/${sheet.id}`);
		},
	});
}

/** Opens the sheet of a meeting with a call that somebody wrote. */
export function useTakeCall(id: string) {
	const queries = useQueryClient();
	const navigate = useNavigate();
	return useMutation({
		mutationFn: async (text: string) => {
			const sheet = await take(api.POST("/api/meetings/{id}/sheet", { params: { path: { id } }, body: {} }));
			return take(api.POST("/api/sheets/{id}/link", { params: { path: { id: sheet.id } }, body: { text } }));
		},
		onSuccess: (sheet) => {
			queries.setQueryData(keys.sheet(sheet.id), sheet);
			navigate(`/sheet/${sheet.id}`);
		},
	});
}

export function useDecideRoom(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["RoomNeeded"]) =>
			take(api.POST("/api/meetings/{id}/room", { params: { path: { id } }, body })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

export function useCallOff(meeting: Schemas["Meeting"]) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: ({ word, reach }: { word: string; reach?: Reach }) =>
			take(
				api.POST("/api/meetings/{id}/calloff", {
					params: { path: { id: meeting.id }, header: { "If-Match": meeting.version } },
					body: { word, ...reach },
				}),
			),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "all" }) }),
	});
}

/** What calling off these dates would do, before it is done. */
export const useCallOffEffect = (meeting: Schemas["Meeting"], reach: Reach | undefined) =>
	useQuery({
		queryKey: keys.callOff(meeting.id, meeting.version, reach),
		queryFn: () =>
			take(api.GET("/api/meetings/{id}/calloff", { params: { path: { id: meeting.id }, query: { ...reach } } })),
		placeholderData: keepPreviousData,
		retry: false,
	});
