import { type ReactNode, useId } from "react";
import type { Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { FieldFault, fieldLook } from "../ui/kit";
import type { DraftStore } from "./draft/store";
import { useWritten } from "./draft/useDraft";
import { faultAt } from "./part";

const none: Schemas["Cover"] = { subject: "", all: "", one: [] };

type Props = {
	store: DraftStore;
	faults: Schemas["FieldError"][];
	to: Schemas["Preview"] | undefined;
	subject: string;
};

/** What goes before the messages of this sending: to everybody, to the one looked at, and their subject. */
export function CoverFields({ store, faults, to, subject }: Props) {
	const cover = useWritten(store, (w) => w.draft.cover) ?? none;
	const change = (part: Partial<Schemas["Cover"]>) => store.change({ cover: { ...cover, ...part } });
	const own = (o: Schemas["CoverOne"]) => o.email.toLowerCase() === to?.email.toLowerCase();
	const others = cover.one.filter((o) => !own(o));
	const say = (email: string, words: string) => change({ one: words ? [...others, { email, words }] : others });
	return (
		<div className="my-3 grid gap-x-4 gap-y-2 md:grid-cols-2">
			<Labelled wide label={t("Subject of the mail")} fault={faultAt(faults, "cover.subject")?.detail}>
				{(field) => (
					<input
						{...field}
						value={cover.subject}
						placeholder={subject}
						onChange={(e) => change({ subject: e.target.value })}
					/>
				)}
			</Labelled>
			<Labelled label={t("Words to everybody")} fault={faultAt(faults, "cover.all")?.detail}>
				{(field) => (
					<textarea {...field} rows={2} value={cover.all} onChange={(e) => change({ all: e.target.value })} />
				)}
			</Labelled>
			{to && (
				<Labelled label={t("To %s alone", to.name)} fault={faultAt(faults, "cover.one")?.detail}>
					{(field) => (
						<textarea
							{...field}
							rows={2}
							value={cover.one.find(own)?.words ?? ""}
							onChange={(e) => say(to.email, e.target.value)}
						/>
					)}
				</Labelled>
			)}
		</div>
	);
}

type Field = { id: string; className: string; "aria-invalid": boolean; "aria-describedby": string | undefined };

function Labelled(props: {
	label: string;
	fault: string | undefined;
	wide?: boolean;
	children: (field: Field) => ReactNode;
}) {
	const id = useId();
	const bad = !!props.fault;
	return (
		<div className={props.wide ? "md:col-span-2" : ""}>
			<label htmlFor={id} className="text-quiet text-small">
				{props.label}
			</label>
			{props.children({
				id,
				className: `${fieldLook(bad)} block placeholder:text-quiet`,
				"aria-invalid": bad,
				"aria-describedby": bad ? `fault-${id}` : undefined,
			})}
			<FieldFault id={`fault-${id}`} sentence={props.fault} />
		</div>
	);
}
