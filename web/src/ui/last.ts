import { useRef } from "react";

/** A value, or the last one there was: a slip does not take the rest of the sheet off the screen. */
export function useLast<T>(value: T | null): T | null {
	const last = useRef(value);
	if (value !== null) last.current = value;
	return value ?? last.current;
}
