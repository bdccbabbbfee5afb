import { FieldFault } from "../ui/kit";
import { faultAt, type Part } from "./SheetPage";

export function TitleField({ draft, change, faults, sheet }: Part) {
	const fault = faultAt(faults, "title");
	return (
		<div>
			<h1 className="sr-only">{sheet.meetingId ? "Changing a meeting" : "A new meeting"}</h1>
			<input
				aria-label="Title"
				aria-invalid={!!fault}
				aria-describedby={fault && "fault-title"}
				placeholder="What is it about?"
				// biome-ignore lint/a11y/noAutofocus: the first thing to settle on an empty sheet
				autoFocus={draft.title === ""}
				className={`w-full border-b-2 bg-transparent py-0.5 font-[650] font-display text-[23px] placeholder:text-quiet ${fault ? "border-brick" : "border-ink"}`}
				value={draft.title}
				onChange={(e) => change({ title: e.target.value })}
			/>
			<FieldFault id="fault-title" sentence={fault?.detail} />
		</div>
	);
}
