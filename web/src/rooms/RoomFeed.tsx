import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, problemOf, take } from "../api/client";
import { keys } from "../api/keys";
import { t } from "../tongue/tongue";
import { FeedLinks } from "../ui/FeedLinks";
import { Button, Note } from "../ui/kit";

/** The secret address of a room's busy times, for who keeps it. */
export function RoomFeed({ id }: { id: string }) {
	const queries = useQueryClient();
	const path = { params: { path: { id } } };
	const feed = useQuery({ queryKey: keys.roomFeed(id), queryFn: () => take(api.GET("/api/rooms/{id}/feed", path)) });
	const after = { onSettled: () => queries.invalidateQueries({ queryKey: keys.roomFeed(id) }) };
	const give = useMutation({ mutationFn: () => take(api.PUT("/api/rooms/{id}/feed", path)), ...after });
	const withdraw = useMutation({ mutationFn: () => take(api.DELETE("/api/rooms/{id}/feed", path)), ...after });
	const problem = give.error ?? withdraw.error;
	const url = feed.data?.url;
	return (
		<>
			<h2 className="mt-4 text-[17px]">{t("Its busy times, for others")}</h2>
			{problem && <Note tone="brick">{problemOf(problem).detail}</Note>}
			<p className="mt-1 text-body">
				{url ? (
					<FeedLinks url={url} busy={withdraw.isPending} withdraw={() => withdraw.mutate()} />
				) : (
					<Button look="bare" className="-ml-1" busy={give.isPending} onClick={() => give.mutate()}>
						{t("Make a secret address")}
					</Button>
				)}
			</p>
		</>
	);
}
