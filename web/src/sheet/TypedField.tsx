import { useLayoutEffect, useRef } from "react";
import { FieldFault, fieldLook } from "../ui/kit";
import { typedIn } from "./draft/typed";
import { useWritten } from "./draft/useDraft";
import { faultAt, type Part } from "./part";

type Props = {
	part: Pick<Part, "sheet" | "faults" | "store">;
	/** What the sheet calls the field. */
	field: string;
	name: string;
	/** What stands there when nothing is typed. */
	shown: string;
	className: string;
	placeholder?: string;
	bad?: boolean;
	fault?: string;
	/** Runs before something is typed into it. */
	onBegin?: () => void;
};

/**
 * A field in which a day or a time is typed in any common way. The program reads it while it is written; it becomes part
 * of the sheet when the field is left, and stays as it is where it cannot be read.
 */
export function TypedField({ part, field, name, shown, className, placeholder, bad, fault, onBegin }: Props) {
	const { store } = part;
	const typed = useWritten(store, (w) => typedIn(w.draft.typed, field));
	const wrong = bad || !!faultAt(part.faults, field);
	const input = useRef<HTMLInputElement>(null);
	// What is put right while the field is being entered is selected anew: the first letter takes its place.
	// biome-ignore lint/correctness/useExhaustiveDependencies: when what is shown changes
	useLayoutEffect(() => {
		if (typed === null && document.activeElement === input.current) input.current?.select();
	}, [shown]);
	return (
		<input
			ref={input}
			aria-label={name}
			aria-invalid={wrong}
			aria-describedby={wrong ? (fault ?? `fault-${field}`) : `reading-${field}`}
			autoComplete="off"
			placeholder={placeholder}
			className={`${fieldLook(wrong)} ${className}`}
			// What is long is seen while it is typed.
			style={typed && typed.length > 7 ? { maxWidth: `${Math.min(20, typed.length) + 3}ch` } : undefined}
			value={typed ?? shown}
			onFocus={(e) => e.currentTarget.select()}
			onChange={(e) => {
				if (typed === null) onBegin?.();
				store.type(field, e.target.value);
			}}
			onBlur={() => store.left(field, shown)}
			onKeyDown={(e) => {
				if (e.key === "Enter" && !e.ctrlKey && !e.metaKey) store.left(field, shown);
				if (e.key === "Escape" && typed !== null) {
					e.stopPropagation();
					store.forget(field);
				}
			}}
		/>
	);
}

/** How what is typed into some fields reads, and why what cannot be read cannot. */
export function Readings({ part, fields }: { part: Pick<Part, "sheet" | "faults" | "store">; fields: string[] }) {
	const typed = useWritten(part.store, (w) => w.draft.typed ?? []);
	return (
		<>
			{fields.map((field) => {
				const text = typedIn(typed, field);
				const reading = part.sheet.readings.find((r) => r.field === field && r.text === text);
				const fault = faultAt(part.faults, field);
				return (
					<div key={field}>
						<p id={`reading-${field}`} aria-live="polite" className="text-fig text-small">
							{text !== null && reading?.words}
						</p>
						<FieldFault id={`fault-${field}`} sentence={fault && text !== null ? fault.detail : undefined} />
					</div>
				);
			})}
		</>
	);
}
