import { useEffect, useRef, useState } from "react";
import { t } from "../tongue/tongue";

const lineHeight = 19;

type Props = { text: string; bad: number[]; line: number; onWrite: (text: string) => void };

/** A description with its lines numbered; lines at fault are set off. */
export function Editor({ text, bad, line, onWrite }: Props) {
	const area = useRef<HTMLTextAreaElement>(null);
	const [top, setTop] = useState(0);
	const lines = text.split("\n");
	useEffect(() => {
		const field = area.current;
		if (!field || line < 1) return;
		const at =
			field.value
				.split("\n")
				.slice(0, line - 1)
				.join("\n").length + (line > 1 ? 1 : 0);
		const end = field.value.indexOf("\n", at);
		field.focus();
		field.setSelectionRange(at, end < 0 ? field.value.length : end);
		field.scrollTop = Math.max(0, (line - 6) * lineHeight);
	}, [line]);
	return (
		<div className="relative mt-2 flex h-[calc(100vh-210px)] min-h-[340px] overflow-hidden rounded-[4px] border border-rule bg-sheet font-mono text-[12.5px]">
			<div
				aria-hidden
				className="relative w-[44px] shrink-0 overflow-hidden border-rule border-r bg-paper text-right text-quiet"
			>
				<div style={{ transform: `translateY(${8 - top}px)` }}>
					{lines.map((_, i) => (
						<div
							// biome-ignore lint/suspicious/noArrayIndexKey: a line has no other name than its number
							key={i}
							className={`pr-2 ${bad.includes(i + 1) ? "bg-brick-wash font-[650] text-brick" : ""}`}
							style={{ height: lineHeight, lineHeight: `${lineHeight}px` }}
						>
							{i + 1}
						</div>
					))}
				</div>
			</div>
			<div className="relative min-w-0 flex-1">
				<div aria-hidden className="pointer-events-none absolute inset-0 overflow-hidden">
					{bad
						.filter((n) => n > 0)
						.map((n) => (
							<div
								key={n}
								className="absolute right-0 left-0 bg-brick-wash"
								style={{ top: 8 + (n - 1) * lineHeight - top, height: lineHeight }}
							/>
						))}
				</div>
				<textarea
					ref={area}
					aria-label={t("Description")}
					spellCheck={false}
					wrap="off"
					className="absolute inset-0 size-full resize-none bg-transparent px-2.5 py-2 whitespace-pre outline-offset-[-2px]"
					style={{ lineHeight: `${lineHeight}px` }}
					value={text}
					onScroll={(e) => setTop(e.currentTarget.scrollTop)}
					onChange={(e) => onWrite(e.target.value)}
				/>
			</div>
		</div>
	);
}
