import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** Keeps what is shown up to date while somebody is signed in. */
export function useLive() {
	const queries = useQueryClient();
	useEffect(() => {
		const stream = new EventSource("/api/live");
		const refresh = () => queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "me" });
		stream.addEventListener("changed", refresh);
		let lost = false;
		stream.onerror = () => {
			lost = true;
		};
		stream.onopen = () => {
			if (lost) refresh();
			lost = false;
		};
		return () => stream.close();
	}, [queries]);
}
