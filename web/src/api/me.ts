import { useQuery } from "@tanstack/react-query";
import { api, take } from "./client";
import { keys } from "./keys";

export function useMe() {
	return useQuery({ queryKey: keys.me, queryFn: () => take(api.GET("/api/me")), staleTime: 60_000, retry: false });
}

/** The person signed in; only below the shell, which has made sure of one. */
export function useSignedIn() {
	const me = useMe().data;
	if (!me) throw new Error("nobody is signed in");
	return me;
}
