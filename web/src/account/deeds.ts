import { useMutation } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";

export const useChangePassword = () =>
	useMutation({
		mutationFn: (passwords: Schemas["ChangePassword"]) => take(api.PUT("/api/me/password", { body: passwords })),
	});

export const useSignOutOthers = () => useMutation({ mutationFn: () => take(api.DELETE("/api/sessions")) });
