import { createContext, type ReactNode, useCallback, useContext, useEffect, useState } from "react";

const Say = createContext<(words: string) => void>(() => {});

/** Says something in passing, at the foot of the window. */
export const useSay = () => useContext(Say);

export function Notices({ children }: { children: ReactNode }) {
	const [said, setSaid] = useState<{ words: string; id: number } | null>(null);
	const say = useCallback((words: string) => setSaid((before) => ({ words, id: (before?.id ?? 0) + 1 })), []);
	useEffect(() => {
		if (!said) return;
		const timer = setTimeout(() => setSaid(null), 6000);
		return () => clearTimeout(timer);
	}, [said]);
	return (
		<Say.Provider value={say}>
			{children}
			<div
				role="status"
				aria-live="polite"
				className="pointer-events-none fixed inset-x-0 bottom-16 z-30 flex justify-center"
			>
				{said && (
					<div key={said.id} className="rounded-[4px] bg-ink px-4 py-2 text-white">
						{said.words}
					</div>
				)}
			</div>
		</Say.Provider>
	);
}
