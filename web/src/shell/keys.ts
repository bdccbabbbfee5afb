import { useEffect, useRef } from "react";

/** Runs deeds at keys, unless somebody is typing or a dialog is open. */
export function useKeys(keys: Record<string, () => void>) {
	const now = useRef(keys);
	now.current = keys;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			const at = e.target as HTMLElement;
			const typing = at.closest("input, textarea, select, [contenteditable], [role=dialog]");
			if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
			const deed = now.current[e.key];
			if (!deed) return;
			e.preventDefault();
			deed();
		};
		window.addEventListener("keydown", hear);
		return () => window.removeEventListener("keydown", hear);
	}, []);
}
