import { type RefObject, useEffect, useLayoutEffect, useState, useSyncExternalStore } from "react";

/** The width of an element in pixels, kept up to date. */
export function useWidth(ref: RefObject<HTMLElement | null>): number {
	const [width, setWidth] = useState(0);
	useLayoutEffect(() => {
		const element = ref.current;
		if (!element) return;
		setWidth(element.clientWidth);
		const watch = new ResizeObserver(() => setWidth(element.clientWidth));
		watch.observe(element);
		return () => watch.disconnect();
	}, [ref]);
	return width;
}

const canvas = document.createElement("canvas").getContext("2d");

/** How wide words are in the type of the interface. */
export function wordsWidth(words: string, font = "400 13px 'Atkinson Hyperlegible Next Variable'"): number {
	if (!canvas) return words.length * 8;
	canvas.font = font;
	return Math.ceil(canvas.measureText(words).width);
}

/** Draws again once the typefaces are there, because words are measured with them. */
export function useFonts(): boolean {
	const [ready, setReady] = useState(document.fonts.status === "loaded");
	useEffect(() => {
		let here = true;
		document.fonts.ready.then(() => here && setReady(true));
		return () => {
			here = false;
		};
	}, []);
	return ready;
}

/** The height of the window. */
export const useWindowHeight = () =>
	useSyncExternalStore(
		(hear) => {
			window.addEventListener("resize", hear);
			return () => window.removeEventListener("resize", hear);
		},
		() => window.innerHeight,
	);
