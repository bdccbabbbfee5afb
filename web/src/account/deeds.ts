import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";

export const useChangePassword = () =>
	useMutation({
		mutationFn: (passwords: Schemas["ChangePassword"]) => take(api.PUT("/api/me/password", { body: passwords })),
	});

export const useSignOutOthers = () => useMutation({ mutationFn: () => take(api.DELETE("/api/sessions")) });

/** Whether what is new comes by mail as well. */
export function useSetNewsMail() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["SetNewsMail"]) => take(api.PUT("/api/me/news-mail", { body })),
		onSettled: () => queries.invalidateQueries({ queryKey: keys.me }),
	});
}
