import { swallow } from "../shell/keys";

/** What is typed between the key that opens a sheet and its title being there. */
let written: string | null = null;

function catchLetter(e: KeyboardEvent) {
	if (written === null || e.ctrlKey || e.metaKey || e.altKey) return;
	if (e.key === "Backspace") written = written.slice(0, -1);
	else if (e.key.length === 1) written += e.key;
	else return;
	e.preventDefault();
	swallow(e.key);
	e.stopImmediatePropagation();
}

/** Catches letters until a title takes them. */
export function beginTypeAhead() {
	if (written !== null) return;
	written = "";
	window.addEventListener("keydown", catchLetter, { capture: true });
}

/** The letters that were caught; from now on they go where the focus is. */
export function takeTypeAhead(): string {
	const text = written ?? "";
	written = null;
	window.removeEventListener("keydown", catchLetter, { capture: true });
	return text;
}
