import { useState } from "react";
import { faultIn, problemOf } from "../api/client";
import { type Term, t, term } from "../tongue/tongue";
import { Button, FieldFault, fieldLook, Label } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type Provider, useSecrets } from "./deeds";

const names: Record<string, Term> = {
	client_id: term("Client ID"),
	client_secret: term("Client secret"),
	key: term("Key"),
	user: term("Name"),
	password: term("Password"),
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
				say(t("Sealed"));
			},
		});
	};
	return (
		<form
			aria-label={t("Secrets")}
			autoComplete="off"
			onSubmit={(e) => {
				e.preventDefault();
				seal();
			}}
		>
			<h3 className="font-display font-[650] text-[15px]">{t("Secrets of the house")}</h3>
			<p className="text-quiet text-small">{t("Sealed when they are given, and never shown again.")}</p>
			{known.map((name) => (
				<div key={name} className="mt-1">
					<Label htmlFor={`secret-${name}`}>
						{t(p.given.includes(name) ? "%s, given" : "%s, missing", names[name] ? t(names[name]) : name)}
					</Label>
					<input
						id={`secret-${name}`}
						type="password"
						autoComplete="off"
						className={fieldLook(!!faultIn(problem, `secrets.${name}`))}
						placeholder={p.given.includes(name) ? t("another one") : ""}
						value={given[name] ?? ""}
						onChange={(e) => setGiven({ ...given, [name]: e.target.value })}
					/>
					<FieldFault id={`fault-${name}`} sentence={faultIn(problem, `secrets.${name}`)} />
				</div>
			))}
			{problem && !problem.errors && <p className="text-brick text-small">{problem.detail}</p>}
			<Button type="submit" busy={give.isPending} className="mt-2">
				{t("Seal them")}
			</Button>
		</form>
	);
}
