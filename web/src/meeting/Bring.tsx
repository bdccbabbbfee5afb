import type { UseMutationResult } from "@tanstack/react-query";
import { type SubmitEvent, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { t } from "../tongue/tongue";
import { Button, Note } from "../ui/kit";
import { NameAndAddress, type Someone } from "../ui/NameAndAddress";
import { useSay } from "../ui/notice";

type Props = { organiser: string; send: UseMutationResult<unknown, Error, Schemas["Brings"]> };

/** Bringing somebody along, where a press opens it. */
export function Bring(props: Props) {
	const [open, setOpen] = useState(false);
	return open ? (
		<Fields {...props} onDone={() => setOpen(false)} />
	) : (
		<Button look="bare" className="text-small" onClick={() => setOpen(true)}>
			{t("Bring somebody along…")}
		</Button>
	);
}

function Fields({ organiser, send, onDone }: Props & { onDone: () => void }) {
	const say = useSay();
	const [they, setThey] = useState<Someone>({ name: "", email: "" });
	const problem = send.error && problemOf(send.error);
	const fault = problem?.errors?.find((f) => f.field === "email")?.detail;
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		send.mutate(they, {
			onSuccess: () => {
				say(t("%s is invited", they.name.trim() || they.email));
				onDone();
			},
		});
	};
	return (
		<form onSubmit={submit} noValidate className="w-full max-w-[460px] rounded-[4px] border border-rule p-3">
			<NameAndAddress is={they} onIs={setThey} fault={fault} />
			{problem && !fault && (
				<div className="mt-2">
					<Note tone="brick">{problem.errors?.[0]?.detail ?? problem.detail}</Note>
				</div>
			)}
			<p className="mt-2 text-quiet text-small">
				{t("They get an invitation of their own; %s sees who brought them.", organiser)}
			</p>
			<div className="mt-2 flex items-center gap-2">
				<Button type="submit" look="go" busy={send.isPending}>
					{t("Invite them")}
				</Button>
				<Button onClick={onDone}>{t("Leave it")}</Button>
			</div>
		</form>
	);
}
