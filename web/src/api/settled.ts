import { useEffect, useState } from "react";

/** A value once it has not changed for a while; the first one at once. */
export function useSettled<T>(value: T, ms: number): T {
	const [settled, setSettled] = useState(value);
	const key = JSON.stringify(value);
	// biome-ignore lint/correctness/useExhaustiveDependencies: by what it says, not by identity
	useEffect(() => {
		if (key === JSON.stringify(settled)) return;
		if (settled === null) {
			setSettled(value);
			return;
		}
		const timer = setTimeout(() => setSettled(value), ms);
		return () => clearTimeout(timer);
	}, [key, ms]);
	return settled;
}
