import { type DragEvent, useState } from "react";

/** Files that are dropped on an element: what to spread on it, and whether they are over it now. */
export function useDrop(take: (files: FileList) => void) {
	const [over, setOver] = useState(false);
	const on = {
		onDragOver: (e: DragEvent) => {
			e.preventDefault();
			setOver(true);
		},
		onDragLeave: () => setOver(false),
		onDrop: (e: DragEvent) => {
			e.preventDefault();
			setOver(false);
			take(e.dataTransfer.files);
		},
	};
	return { over, on };
}
