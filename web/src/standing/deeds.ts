import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { anyOf, keys } from "../api/keys";

export type Standing = Schemas["StandingLink"];

export const useStanding = () => useQuery({ queryKey: keys.standing, queryFn: () => take(api.GET("/api/standing")) });

/** A deed about standing links; what shows them is asked anew. */
function useStandingDeed<In>(deed: (input: In) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		onSuccess: () => queries.invalidateQueries(anyOf("standing", "calls")),
	});
}

export const useKeep = () =>
	useStandingDeed(({ id, ...body }: Schemas["KeepStanding"] & { id: string }) =>
		take(api.PUT("/api/standing/{id}", { params: { path: { id } }, body })),
	);

export const useDrop = () =>
	useStandingDeed((id: string) => take(api.DELETE("/api/standing/{id}", { params: { path: { id } } })));

/** The standing rooms at a provider. */
export const useRoomsAt = (provider: string) =>
	useQuery({
		queryKey: keys.roomsAt(provider),
		queryFn: () => take(api.GET("/api/providers/{provider}/rooms", { params: { path: { provider } } })),
		enabled: provider !== "",
		retry: false,
	});
