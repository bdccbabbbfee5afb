import { t } from "../tongue/tongue";
import { FieldFault, fieldLook } from "../ui/kit";
import { useWritten } from "./draft/useDraft";
import { OtherWays } from "./OtherWays";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import { Reminders } from "./Reminders";

export function TextPart(part: Part) {
	const { draft, change, faults, store, sheet } = part;
	const text = useWritten(store, (w) => w.draft.text);
	const fault = faultAt(faults, "text");
	return (
		<PartRow name="Text">
			<textarea
				aria-label={t("Text")}
				aria-invalid={!!fault}
				aria-describedby={fault && "fault-text"}
				rows={3}
				placeholder={t("What to bring, what to know")}
				className={`${fieldLook(!!fault)} block text-body placeholder:text-quiet`}
				value={text}
				onChange={(e) => change({ text: e.target.value })}
			/>
			<FieldFault
				id="fault-text"
				sentence={sheet.link.ways.some((w) => w.field === "text") ? undefined : fault?.detail}
			/>
			<OtherWays part={part} field="text" />
			<CoverLine {...part} />
			<div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-quiet text-small">
				<Reminders {...part} />
				<fieldset className="flex w-full gap-x-3 whitespace-nowrap">
					<legend className="contents">{t("Guests may")}</legend>
					<span className="flex flex-wrap gap-x-3 gap-y-1">
						<Right name={t("see each other")} is={!draft.apart} set={(see) => change({ apart: !see })} />
						<Right name={t("bring others")} is={draft.bring} set={(bring) => change({ bring })} />
						<Right name={t("move it")} is={draft.move} set={(move) => change({ move })} />
					</span>
				</fieldset>
				<label className="flex items-center gap-1.5">
					<input type="checkbox" checked={draft.private} onChange={(e) => change({ private: e.target.checked })} />
					{t("private: others see no name at the room")}
				</label>
			</div>
		</PartRow>
	);
}

/** What those invited may do without asking. */
const Right = ({ name, is, set }: { name: string; is: boolean | undefined; set: (is: boolean) => void }) => (
	<label className="flex items-center gap-1.5">
		<input type="checkbox" checked={is ?? false} onChange={(e) => set(e.target.checked)} />
		{name}
	</label>
);

/** What goes before the messages is written where they are looked at; here stands that it is there. */
function CoverLine({ store, faults }: Part) {
	const cover = useWritten(store, (w) => w.draft.cover);
	const fault = faults.find((f) => f.field.startsWith("cover."));
	const parts = [
		cover?.all.trim() && t("words to everybody"),
		cover?.one.length && t("words to one alone"),
		cover?.subject.trim() && t("a subject of its own"),
	].filter(Boolean);
	if (!fault && parts.length === 0) return null;
	return (
		<>
			{parts.length > 0 && <p className="mt-1 text-fig text-small">{t("Goes with %s.", parts.join(", "))}</p>}
			<FieldFault id="fault-cover" sentence={fault && t("%s They stand in “See the invitation”.", fault.detail)} />
		</>
	);
}
