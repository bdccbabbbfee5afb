import { useEffect } from "react";
import { t } from "../tongue/tongue";
import { FieldFault } from "../ui/kit";
import { useWritten } from "./draft/useDraft";
import { OtherWays } from "./OtherWays";
import { faultAt, type Part } from "./part";
import { takeTypeAhead } from "./typeAhead";

export function TitleField(part: Part) {
	const { change, faults, sheet, store } = part;
	const title = useWritten(store, (w) => w.draft.title);
	const fault = faultAt(faults, "title");
	// biome-ignore lint/correctness/useExhaustiveDependencies: once, when the title is there
	useEffect(() => {
		const letters = takeTypeAhead();
		if (letters) change({ title: title + letters });
	}, []);
	return (
		<div data-part="Title">
			<h1 className="sr-only">{sheet.meetingId ? t("Changing a meeting") : t("A new meeting")}</h1>
			<input
				aria-label={t("Title")}
				aria-invalid={!!fault}
				aria-describedby={fault && "fault-title"}
				placeholder={t("What is it about?")}
				// biome-ignore lint/a11y/noAutofocus: the first thing to settle on an empty sheet
				autoFocus={title === ""}
				className={`w-full border-b-2 bg-transparent py-0.5 font-[650] font-display text-[23px] placeholder:text-quiet ${fault ? "border-brick" : "border-ink"}`}
				value={title}
				onChange={(e) => change({ title: e.target.value })}
			/>
			<FieldFault
				id="fault-title"
				sentence={sheet.link.ways.some((w) => w.field === "title") ? undefined : fault?.detail}
			/>
			<OtherWays part={part} field="title" />
		</div>
	);
}
