import { useState } from "react";
import { faultIn, problemOf } from "../api/client";
import { Button, FieldFault, fieldLook, Label } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type Provider, useSecrets } from "./deeds";

const names: Record<string, string> = {
	client_id: "Client ID",
	client_secret: "Client secret",
	key: "Key",
	user: "Name",
	password: "Password",
};

/** What the provider gave the house; it is sealed and never shown again. */
export function Secrets({ provider: p }: { provider: Provider }) {
	const give = useSecrets(p.key);
	const say = useSay();
	const [given, setGiven] = useState<Record<string, string>>({});
	const known = [...new Set([...p.needs, ...p.given])];
	if (known.length === 0) return null;
	const problem = give.error && problemOf(give.error);
	const seal = () => {
		const filled = Object.fromEntries(Object.entries(given).filter(([, v]) => v !== ""));
		if (Object.keys(filled).length === 0) return;
		give.mutate(filled, {
			onSuccess: () => {
				setGiven({});
				say("Sealed");
			},
		});
	};
	return (
		<form
			aria-label="Secrets"
			autoComplete="off"
			onSubmit={(e) => {
				e.preventDefault();
				seal();
			}}
		>
			<h3 className="font-display font-[650] text-[15px]">Secrets of the house</h3>
			<p className="text-quiet text-small">Sealed when they are given, and never shown again.</p>
			{known.map((name) => (
				<div key={name} className="mt-1">
					<Label htmlFor={`secret-${name}`}>
						{names[name] ?? name}
						{p.given.includes(name) ? ", given" : ", missing"}
					</Label>
					<input
						id={`secret-${name}`}
						type="password"
						autoComplete="off"
						className={fieldLook(!!faultIn(problem, `secrets.${name}`))}
						placeholder={p.given.includes(name) ? "another one" : ""}
						value={given[name] ?? ""}
						onChange={(e) => setGiven({ ...given, [name]: e.target.value })}
					/>
					<FieldFault id={`fault-${name}`} sentence={faultIn(problem, `secrets.${name}`)} />
				</div>
			))}
			{problem && !problem.errors && <p className="text-brick text-small">{problem.detail}</p>}
			<Button type="submit" busy={give.isPending} className="mt-2">
				Seal them
			</Button>
		</form>
	);
}
