import { type RefObject, useEffect, useRef } from "react";

/** A key that does something writes nothing, also where the deed brings the focus into a field. */
export function swallow(key: string) {
	const stop = (e: KeyboardEvent) => e.key === key && e.preventDefault();
	const over = () => {
		window.removeEventListener("keypress", stop, true);
		window.removeEventListener("keyup", over, true);
		window.removeEventListener("keydown", over, true);
	};
	window.addEventListener("keypress", stop, true);
	window.addEventListener("keyup", over, true);
	setTimeout(() => window.addEventListener("keydown", over, true), 0);
}

/** Runs deeds at keys, unless somebody is typing, a menu takes the letters, or a dialog is open that does not hold `inside`. */
export function useKeys(keys: Record<string, () => void>, inside?: RefObject<HTMLElement | null>) {
	const now = useRef(keys);
	now.current = keys;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			const at = e.target as HTMLElement;
			const typing = at.closest("input, textarea, select, [contenteditable], [role=menu]");
			const dialog = at.closest("[role=dialog]");
			if (typing || (dialog && !dialog.contains(inside?.current ?? null)) || e.ctrlKey || e.metaKey || e.altKey) return;
			const deed = now.current[e.key];
			if (!deed) return;
			e.preventDefault();
			swallow(e.key);
			deed();
		};
		window.addEventListener("keydown", hear);
		return () => window.removeEventListener("keydown", hear);
	}, [inside]);
}
