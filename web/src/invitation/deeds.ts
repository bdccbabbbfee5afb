import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";

export type Invitation = Schemas["Invitation"];

export const useInvitation = (id: string) =>
	useQuery({
		queryKey: keys.invitation(id),
		queryFn: () => take(api.GET("/api/invitations/{id}", { params: { path: { id } } })),
	});

/** Where people outside invite the reader. */
export const useInvitationAddress = () =>
	useQuery({
		queryKey: keys.invitationAddress,
		queryFn: () => take(api.GET("/api/invitations/address")),
		staleTime: Number.POSITIVE_INFINITY,
	});

function useDeed<T>(id: string, deed: (given: T) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "invitation", id }) }),
	});
}

export const useAnswerInvitation = (i: { id: string; version: number }) =>
	useDeed(i.id, (given: Omit<Schemas["AnswerInvitation"], "version">) =>
		take(
			api.POST("/api/invitations/{id}/answer", {
				params: { path: { id: i.id } },
				body: { ...given, version: i.version },
			}),
		),
	);

export const useBelieve = (id: string) =>
	useDeed(id, (believe: boolean) =>
		take(api.POST("/api/invitations/{id}/believe", { params: { path: { id } }, body: { believe } })),
	);
