import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";

export type Provider = Schemas["ProviderPage"];
export type Fault = Schemas["DescriptionFault"];

export const useProviders = () =>
	useQuery({ queryKey: keys.providers, queryFn: () => take(api.GET("/api/providers")) });

export const useProvider = (key: string) =>
	useQuery({
		queryKey: keys.provider(key),
		queryFn: () => take(api.GET("/api/providers/{provider}", { params: { path: { provider: key } } })),
		enabled: key !== "",
		// What is being written here is not overwritten by what was kept before.
		refetchOnWindowFocus: false,
		staleTime: Number.POSITIVE_INFINITY,
	});

export const useSchema = () =>
	useQuery({
		queryKey: keys.providerSchema,
		queryFn: () => take(api.GET("/api/providers/schema")),
		staleTime: Number.POSITIVE_INFINITY,
	});

/** A deed that answers with the provider as it is then. */
function useProviderDeed<In>(key: string, deed: (input: In) => Promise<Provider>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: deed,
		onSuccess: (provider) => {
			queries.setQueryData(keys.provider(key), provider);
			queries.invalidateQueries({ queryKey: keys.providers });
			queries.invalidateQueries({ queryKey: keys.me });
		},
		// Somebody else may have written it meanwhile: what they wrote is read.
		onError: () => queries.invalidateQueries({ queryKey: keys.provider(key) }),
	});
}

const at = (provider: string, version: number) => ({ path: { provider }, header: { "If-Match": version } });

export const useWrite = (key: string) =>
	useProviderDeed(key, ({ text, version }: { text: string; version: number }) =>
		take(api.PUT("/api/providers/{provider}", { params: at(key, version), body: { description: text } })),
	);

export const useUse = (key: string) =>
	useProviderDeed(key, (version: number) =>
		take(api.POST("/api/providers/{provider}/use", { params: at(key, version) })),
	);

export const useRestore = (key: string) =>
	useProviderDeed(key, ({ version, number }: { version: number; number: number }) =>
		take(api.POST("/api/providers/{provider}/restore", { params: at(key, version), body: { version: number } })),
	);

export const useTry = (key: string) =>
	useMutation({
		mutationFn: () => take(api.POST("/api/providers/{provider}/try", { params: { path: { provider: key } } })),
	});

export const useCheck = () =>
	useMutation({
		mutationFn: (text: string) => take(api.POST("/api/providers/check", { body: { description: text } })),
	});

export function useAdd() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (name: string) => take(api.POST("/api/providers", { body: { name } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: keys.providers }),
	});
}

export function useStop(key: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: () => take(api.DELETE("/api/providers/{provider}", { params: { path: { provider: key } } })),
		onSuccess: () => {
			queries.removeQueries({ queryKey: keys.provider(key) });
			queries.invalidateQueries({ queryKey: keys.providers });
			queries.invalidateQueries({ queryKey: keys.me });
		},
	});
}

export function useSecrets(key: string) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (secrets: Record<string, string>) =>
			take(api.PUT("/api/providers/{provider}/secrets", { params: { path: { provider: key } }, body: { secrets } })),
		onSuccess: () => queries.invalidateQueries({ queryKey: keys.provider(key) }),
	});
}
