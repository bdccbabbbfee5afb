import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";

export type Proposal = Schemas["Proposal"];

/** The other times proposed for a meeting that one organises. */
export const useProposals = (id: string, asked: boolean) =>
	useQuery({
		queryKey: keys.proposals(id),
		queryFn: () => take(api.GET("/api/meetings/{id}/proposals", { params: { path: { id } } })),
		enabled: asked,
	});

export function useDecideProposal(id: string, proposalId: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["DecideProposal"]) =>
			take(api.POST("/api/meetings/{id}/proposals/{proposalId}", { params: { path: { id, proposalId } }, body })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

/** Proposes another time for a meeting that one is asked to. */
export function usePropose(id: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["ProposeTime"]) =>
			take(api.POST("/api/meetings/{id}/propose", { params: { path: { id } }, body })),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "meeting", id }) }),
	});
}

export function useProposeAsGuest(token: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["ProposeTime"]) =>
			take(api.POST("/api/guest/{token}/propose", { params: { path: { token } }, body })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.guest(token) }),
	});
}
