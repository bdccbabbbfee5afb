import { type RefObject, useEffect, useRef } from "react";

/** Runs deeds at keys, unless somebody is typing or a dialog is open that does not hold `inside`. */
export function useKeys(keys: Record<string, () => void>, inside?: RefObject<HTMLElement | null>) {
	const now = useRef(keys);
	now.current = keys;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			const at = e.target as HTMLElement;
			const typing = at.closest("input, textarea, select, [contenteditable]");
			const dialog = at.closest("[role=dialog]");
			if (typing || (dialog && !dialog.contains(inside?.current ?? null)) || e.ctrlKey || e.metaKey || e.altKey) return;
			const deed = now.current[e.key];
			if (!deed) return;
			e.preventDefault();
			deed();
		};
		window.addEventListener("keydown", hear);
		return () => window.removeEventListener("keydown", hear);
	}, [inside]);
}
