import { useEffect } from "react";
import { useUnread } from "../news/deeds";

/** The title of the window: what it shows, and how much is new. */
export function useTitle(name: string) {
	const unread = useUnread();
	useEffect(() => {
		document.title = `${unread > 0 ? `(${unread > 99 ? "99+" : unread}) ` : ""}${name ? `${name} · ` : ""}Jembro`;
	}, [name, unread]);
}
