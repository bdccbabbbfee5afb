import { useState } from "react";
import { NavLink, useNavigate, useParams } from "react-router";
import { faultIn, ProblemError, problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { Lost } from "../shell/Lost";
import { useTitle } from "../shell/title";
import { t } from "../tongue/tongue";
import { Button, Empty, FieldFault, fieldLook, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { DescriptionPage } from "./DescriptionPage";
import { useAdd, useProvider, useProviders } from "./deeds";
import { Fields } from "./Fields";

/** Who makes the calls: the descriptions of providers, for who keeps them. */
export function ProvidersPage() {
	const { key = "" } = useParams();
	const me = useSignedIn();
	const all = useProviders();
	const fields = key === "fields";
	const provider = useProvider(fields ? "" : key);
	useTitle(t("Providers"));
	if (!me.keepsProviders) return <Lost what={t("This page is for who keeps the providers")} />;
	const gone = provider.error instanceof ProblemError && provider.error.problem.status === 404;
	return (
		<main className="grid min-w-0 flex-1 grid-cols-1 lg:grid-cols-[240px_minmax(0,1fr)]">
			<aside aria-label={t("All providers")} className="border-rule border-r bg-sheet px-2 py-3.5">
				<h1 className="px-2.5 text-[21px]">{t("Providers")}</h1>
				<p className="mb-2 px-2.5 text-quiet text-small">
					{t("Who makes the calls. Each is a description; a new one needs no new version of Jembro.")}
				</p>
				{all.isPending && <Skeleton lines={4} />}
				{all.error && <TryAgain error={all.error} again={() => all.refetch()} />}
				<nav aria-label={t("Providers")}>
					{all.data?.items.map((p) => (
						<NavLink
							key={p.key}
							to={`/providers/${p.key}`}
							className={({ isActive }) =>
								`block rounded-[3px] px-2.5 py-1.5 text-ink no-underline ${isActive ? "bg-fig-wash" : "hover:bg-paper"}`
							}
						>
							<b className="block font-[650]">{p.name}</b>
							<span className="block text-quiet text-small">{p.about}</span>
						</NavLink>
					))}
				</nav>
				<Describe />
				<p className="mt-3 px-2.5 text-small">
					<NavLink to="/providers/fields" className="inline-block text-moss">
						{t("How to write one: fields, with examples")}
					</NavLink>
				</p>
			</aside>
			{fields ? (
				<Fields />
			) : key === "" ? (
				<div className="p-5">
					<Empty title={all.data?.items.length === 0 ? t("No provider is described yet") : t("Choose a provider")}>
						{all.data?.items.length === 0
							? t("People can paste links of others until one is. Describe one from its documentation, at the left.")
							: t("Its description, what was tried, and its versions are shown here.")}
					</Empty>
				</div>
			) : gone ? (
				<Lost what={t("There is no such provider")} />
			) : provider.error ? (
				<div className="p-5">
					<TryAgain error={provider.error} again={() => provider.refetch()} />
				</div>
			) : provider.data ? (
				<DescriptionPage key={key} provider={provider.data} />
			) : (
				<Skeleton lines={6} />
			)}
		</main>
	);
}

/** Begins another description by its name. */
function Describe() {
	const [name, setName] = useState<string | null>(null);
	const add = useAdd();
	const navigate = useNavigate();
	const fault = add.error ? (faultIn(problemOf(add.error), "name") ?? problemOf(add.error).detail) : undefined;
	const begin = () =>
		add.mutate(name ?? "", {
			onSuccess: ({ key }) => {
				setName(null);
				navigate(`/providers/${key}`);
			},
		});
	if (name === null)
		return (
			<div className="mt-2 px-2.5">
				<Button onClick={() => setName("")}>{t("Describe another")}</Button>
			</div>
		);
	return (
		<form
			className="mt-2 px-2.5"
			onSubmit={(e) => {
				e.preventDefault();
				begin();
			}}
		>
			<input
				aria-label={t("What people call it")}
				aria-invalid={!!fault}
				aria-describedby={fault && "fault-name"}
				placeholder={t("What people call it")}
				// biome-ignore lint/a11y/noAutofocus: it was asked for at this press
				autoFocus
				className={fieldLook(!!fault)}
				value={name}
				onChange={(e) => setName(e.target.value)}
				onKeyDown={(e) => e.key === "Escape" && setName(null)}
			/>
			<FieldFault id="fault-name" sentence={fault} />
			<Button type="submit" busy={add.isPending} className="mt-1">
				{t("Begin")}
			</Button>
		</form>
	);
}
