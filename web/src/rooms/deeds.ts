import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";

/** What a room must have, and how long it has to be clear at a stretch, in minutes. */
export type Wish = { seats: number; equipment: string[]; site: string; floor: string; clearFor: number };
export type RoomToday = Schemas["RoomToday"];
export type RoomPage = Schemas["RoomPage"];
export type RoomChange = Schemas["RoomChange"];

/** Holds come and go by themselves: what is shown of rooms is asked anew so often while the window is in front. */
const often = 60_000;

export const useRoomsDay = (day: string, wish: Wish) =>
	useQuery({
		queryKey: keys.roomsDay(day, wish),
		queryFn: () => take(api.GET("/api/rooms/day", { params: { query: { day, ...wish } } })),
		placeholderData: keepPreviousData,
		refetchInterval: often,
	});

export const useRoom = (id: string, from: string) =>
	useQuery({
		queryKey: keys.room(id, from),
		queryFn: () => take(api.GET("/api/rooms/{id}", { params: { path: { id }, query: { from } } })),
		placeholderData: (before) => (before?.room.id === id ? before : undefined),
		refetchInterval: often,
	});

/** A deed about rooms; what shows them is asked anew. */
function useRoomDeed<In, Out>(deed: (input: In) => Promise<Out>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		onSuccess: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "room" }) }),
	});
}

export const useAnswerRequest = () =>
	useRoomDeed(({ id, yes, word }: { id: string; yes: boolean; word: string }) =>
		take(api.POST("/api/room-requests/{id}", { params: { path: { id } }, body: { yes, word } })),
	);

export const useChangeRoom = (id: string) =>
	useRoomDeed(({ version, room }: { version: number; room: RoomChange }) =>
		take(api.PUT("/api/rooms/{id}", { params: { path: { id }, header: { "If-Match": version } }, body: room })),
	);

export const useTakeTable = () =>
	useRoomDeed((body: Schemas["RoomTable"]) => take(api.POST("/api/room-table", { body })));
