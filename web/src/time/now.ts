import { useEffect, useState } from "react";
import { Temporal } from "temporal-polyfill";
import { useMe } from "../api/me";

/** The program's clock, kept running here; it moves every few seconds, or as often as is asked. */
export function useNow(every = 5000): Temporal.Instant {
	const { data, dataUpdatedAt } = useMe();
	const [tick, setTick] = useState(() => Date.now());
	useEffect(() => {
		const timer = setInterval(() => setTick(Date.now()), every);
		return () => clearInterval(timer);
	}, [every]);
	const since = Math.max(0, Math.max(tick, dataUpdatedAt) - dataUpdatedAt);
	const from = data ? Temporal.Instant.from(data.now) : Temporal.Now.instant();
	return from.add({ milliseconds: Math.round(since) });
}
