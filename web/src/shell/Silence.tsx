import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { answering } from "../api/awake";
import { keys } from "../api/keys";
import { t, term } from "../tongue/tongue";

const words = {
	slow: term(
		"Jembro has not answered for two seconds. What you wrote is kept in this window; it goes on as soon as it answers.",
	),
	away: term(
		"Jembro does not answer. What you wrote is kept in this window and is sent again by itself; leave it open.",
	),
};

const lookAgain = 3000;

/** Says that the program does not answer, what is kept and what happens next. */
export function Silence() {
	const state = useSyncExternalStore(answering.subscribe, answering.get);
	const queries = useQueryClient();
	useEffect(() => {
		if (state === "yes") return;
		const timer = setInterval(() => void queries.refetchQueries({ queryKey: keys.me }), lookAgain);
		return () => clearInterval(timer);
	}, [state, queries]);
	return (
		<div role="status" aria-live="polite">
			{state !== "yes" && <p className="bg-honey-wash px-5 py-1.5 text-body text-honey">{t(words[state])}</p>}
		</div>
	);
}
