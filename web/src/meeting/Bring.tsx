import type { UseMutationResult } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { Button, FieldFault, fieldLook, Label, Note } from "../ui/kit";
import { useSay } from "../ui/notice";

type Props = { organiser: string; send: UseMutationResult<unknown, Error, Schemas["Brings"]> };

/** Bringing somebody along, where a press opens it. */
export function Bring(props: Props) {
	const [open, setOpen] = useState(false);
	return open ? (
		<Fields {...props} onDone={() => setOpen(false)} />
	) : (
		<Button look="bare" className="text-small" onClick={() => setOpen(true)}>
			Bring somebody along…
		</Button>
	);
}

function Fields({ organiser, send, onDone }: Props & { onDone: () => void }) {
	const id = useId();
	const say = useSay();
	const [name, setName] = useState("");
	const [email, setEmail] = useState("");
	const problem = send.error && problemOf(send.error);
	const fault = problem?.errors?.find((f) => f.field === "email")?.detail;
	const submit = (e: FormEvent) => {
		e.preventDefault();
		send.mutate(
			{ name, email },
			{
				onSuccess: () => {
					say(`${name.trim() || email} is invited`);
					onDone();
				},
			},
		);
	};
	return (
		<form onSubmit={submit} noValidate className="w-full max-w-[460px] rounded-[4px] border border-rule p-3">
			<div className="grid gap-2 sm:grid-cols-2">
				<div>
					<Label htmlFor={`${id}name`}>Name (optional)</Label>
					<input
						id={`${id}name`}
						className={fieldLook()}
						value={name}
						maxLength={200}
						onChange={(e) => setName(e.target.value)}
					/>
				</div>
				<div>
					<Label htmlFor={`${id}email`}>E-mail address</Label>
					<input
						id={`${id}email`}
						type="email"
						required
						className={fieldLook(!!fault)}
						aria-invalid={!!fault}
						aria-describedby={fault && `${id}fault`}
						value={email}
						maxLength={300}
						onChange={(e) => setEmail(e.target.value)}
					/>
				</div>
			</div>
			<FieldFault id={`${id}fault`} sentence={fault} />
			{problem && !fault && (
				<div className="mt-2">
					<Note tone="brick">{problem.errors?.[0]?.detail ?? problem.detail}</Note>
				</div>
			)}
			<p className="mt-2 text-quiet text-small">
				They get an invitation of their own; {organiser} sees who brought them.
			</p>
			<div className="mt-2 flex items-center gap-2">
				<Button type="submit" look="go" busy={send.isPending}>
					Invite them
				</Button>
				<Button onClick={onDone}>Leave it</Button>
			</div>
		</form>
	);
}
