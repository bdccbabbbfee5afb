import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { keys, shows } from "../api/keys";

export const useHours = () => useQuery({ queryKey: keys.hours, queryFn: () => take(api.GET("/api/hours")) });

/** Something done about one's own time: everything that shows it is asked anew. */
function useDeed<T>(mutationFn: (what: T) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn,
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "hours" }) }),
	});
}

const based = (version: number) => ({ header: { "If-Match": version } });

export const useSetHours = () =>
	useDeed(({ version, ...body }: Schemas["SetHours"] & { version: number }) =>
		take(api.PUT("/api/hours", { params: based(version), body })),
	);

export const useSetDay = () =>
	useDeed(({ version, day, ...body }: Schemas["SetOtherDay"] & { version: number; day: string }) =>
		take(api.PUT("/api/hours/days/{day}", { params: { ...based(version), path: { day } }, body })),
	);

export const useDropDay = () =>
	useDeed(({ version, day }: { version: number; day: string }) =>
		take(api.DELETE("/api/hours/days/{day}", { params: { ...based(version), path: { day } } })),
	);

export const useTakeFile = () =>
	useDeed(({ version, b64 }: { version: number; b64: string }) =>
		take(api.POST("/api/hours/file", { params: based(version), body: { b64 } })),
	);

export const useLeave = (id: string) =>
	useQuery({ queryKey: keys.leave(id), queryFn: () => take(api.GET("/api/leave/{id}", { params: { path: { id } } })) });

export function useEnterLeave() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (body: Schemas["EnterLeave"]) => take(api.POST("/api/leave", { body })),
		onSuccess: (leave) => queries.setQueryData(keys.leave(leave.id), leave),
		onSettled: () => queries.invalidateQueries({ predicate: (q) => shows(q.queryKey, { topic: "hours" }) }),
	});
}

export const useTakeLeaveBack = () =>
	useDeed((id: string) => take(api.DELETE("/api/leave/{id}", { params: { path: { id } } })));

export const useSettleLeave = () =>
	useDeed(({ id, ...body }: Schemas["SettleLeave"] & { id: string }) =>
		take(api.POST("/api/leave/{id}/settle", { params: { path: { id } }, body })),
	);

export const useAddCalendar = () =>
	useDeed((body: Schemas["AddCalendar"]) => take(api.POST("/api/calendars", { body })));

export const useChangeCalendar = () =>
	useDeed(({ id, ...body }: Schemas["ChangeCalendar"] & { id: string }) =>
		take(api.PATCH("/api/calendars/{id}", { params: { path: { id } }, body })),
	);

export const useRemoveCalendar = () =>
	useDeed((id: string) => take(api.DELETE("/api/calendars/{id}", { params: { path: { id } } })));

export const useReadCalendar = () =>
	useDeed((id: string) => take(api.POST("/api/calendars/{id}/read", { params: { path: { id } } })));

export const useSetSharing = () => useDeed((body: Schemas["SetSharing"]) => take(api.PUT("/api/sharing", { body })));

export const useGive = () => useDeed((titles: boolean) => take(api.PUT("/api/feed", { body: { titles } })));

export const useWithdraw = () => useDeed<void>(() => take(api.DELETE("/api/feed")));
