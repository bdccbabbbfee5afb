import { type ReactNode, useRef } from "react";
import { Button } from "./kit";

/** A button that has a file chosen; the same file can be chosen again. */
export function FileButton(props: {
	label: string;
	accept: string;
	onFile: (file: File) => void;
	busy?: boolean;
	className?: string;
	children: ReactNode;
}) {
	const file = useRef<HTMLInputElement>(null);
	return (
		<>
			<Button look="bare" busy={props.busy} className={props.className} onClick={() => file.current?.click()}>
				{props.children}
			</Button>
			<input
				ref={file}
				type="file"
				accept={props.accept}
				className="sr-only"
				tabIndex={-1}
				aria-label={props.label}
				onChange={(e) => {
					const chosen = e.target.files?.[0];
					e.target.value = "";
					if (chosen) props.onFile(chosen);
				}}
			/>
		</>
	);
}
