import { type SubmitEvent, useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useInvitationAddress } from "../invitation/deeds";
import { useTitle } from "../shell/title";
import { type Term, t, term } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { Button, FieldFault, fieldLook, Label, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { useChangePassword, useSetNewsMail, useSignOutOthers } from "./deeds";

/** One's own account: the password, and where else one is signed in. */
export function AccountPage() {
	const me = useSignedIn();
	useTitle(t("Account"));
	return (
		<main className="w-full max-w-[560px] px-5 py-4">
			<h1 className="text-[23px]">{me.name}</h1>
			<p className="text-quiet">
				{me.email} · {me.role} · {me.site}
			</p>
			<InvitedAt />
			<NewsMail />
			<InBackground />
			<Nudges />
			<Password />
			<Elsewhere />
		</main>
	);
}

/** Whether those who say nothing are asked again by themselves. */
function Nudges() {
	const { newsMail, nudges } = useSignedIn();
	const set = useSetNewsMail();
	return (
		<section className="mt-4 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<h2 className="text-[17px]">{t("Those who do not answer")}</h2>
			<label className="mt-1 flex items-start gap-1.5">
				<input
					type="checkbox"
					className="mt-1 size-4 accent-moss"
					checked={set.isPending ? (set.variables.nudges ?? nudges) : nudges}
					onChange={(e) => set.mutate({ newsMail, nudges: e.target.checked })}
				/>
				{t(
					"ask whoever is needed and silent once more by itself, a day before a meeting of mine; never in their night",
				)}
			</label>
			{set.error && <Note tone="brick">{problemOf(set.error).detail}</Note>}
		</section>
	);
}

/** Reminders by the browser, while nobody looks at Jembro. */
function InBackground() {
	const here = "Notification" in window;
	const [permission, setPermission] = useState(here ? Notification.permission : "denied");
	return (
		<section className="mt-4 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<h2 className="text-[17px]">{t("Reminders")}</h2>
			<p className="mt-1 text-small">
				{t(
					"What is about to begin stands in the head of every page, with Join. %s",
					permission === "granted"
						? t("In the background this browser tells it as well, without a sound.")
						: permission === "denied"
							? t("This browser does not let Jembro tell it in the background; its settings for this page do.")
							: t("This browser can tell it in the background as well, without a sound."),
				)}
			</p>
			{permission === "default" && (
				<Button className="mt-1.5" onClick={async () => setPermission(await Notification.requestPermission())}>
					{t("Tell me in the background too")}
				</Button>
			)}
		</section>
	);
}

/** Where people outside invite one. */
function InvitedAt() {
	const address = useInvitationAddress();
	const copy = useCopy();
	if (!address.data) return null;
	return (
		<section className="mt-4 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<h2 className="text-[17px]">{t("Invitations from outside")}</h2>
			<p className="mt-1 text-small">
				{t(
					"What comes to this address as an invitation stands in your week, and is answered from here. Let your mail program send invitations on to it; it is yours alone.",
				)}
			</p>
			<p className="mt-1.5 flex flex-wrap items-center gap-2">
				<code className="min-w-0 break-all text-small">{address.data.address}</code>
				<Button onClick={() => copy(address.data.address, t("Address"))}>{t("Copy")}</Button>
			</p>
		</section>
	);
}

const ways: [Schemas["NewsMail"], Term][] = [
	["away", term("when I have not been here for a day")],
	["always", term("always")],
	["never", term("never")],
];

function NewsMail() {
	const { newsMail, morningMail } = useSignedIn();
	const set = useSetNewsMail();
	return (
		<fieldset className="mt-4 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<legend className="float-left mb-1.5 w-full font-[650] font-display text-[17px]">
				{t("What is new, by mail as well")}
			</legend>
			{set.error && <Note tone="brick">{problemOf(set.error).detail}</Note>}
			{ways.map(([way, words]) => (
				<label key={way} className="clear-left flex items-center gap-1.5 py-0.5">
					<input
						type="radio"
						name="news-mail"
						className="accent-fig"
						checked={(set.isPending ? set.variables.newsMail : newsMail) === way}
						onChange={() => set.mutate({ newsMail: way })}
					/>
					{t(words)}
				</label>
			))}
			<label className="mt-2 flex items-center gap-1.5 border-rule border-t pt-2">
				<input
					type="checkbox"
					className="size-4 accent-moss"
					checked={set.isPending ? (set.variables.morningMail ?? morningMail) : morningMail}
					onChange={(e) => set.mutate({ newsMail, morningMail: e.target.checked })}
				/>
				{t("and a short mail about the day, before it begins")}
			</label>
		</fieldset>
	);
}

function Password() {
	const change = useChangePassword();
	const say = useSay();
	const [current, setCurrent] = useState("");
	const [fresh, setFresh] = useState("");
	const problem = change.error && problemOf(change.error);
	const fault = (field: string) => faultIn(problem, field);
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		change.mutate(
			{ current, fresh },
			{
				onSuccess: () => {
					setCurrent("");
					setFresh("");
					say(t("The new password holds; everywhere else you are signed out"));
				},
			},
		);
	};
	return (
		<form onSubmit={submit} className="mt-4 flex flex-col gap-3 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<h2 className="text-[17px]">{t("Password")}</h2>
			<PasswordField
				name="current"
				label={t("The one that holds now")}
				value={current}
				change={setCurrent}
				fault={fault("current")}
			/>
			<PasswordField
				name="fresh"
				label={t("The new one, 12 characters or more")}
				value={fresh}
				change={setFresh}
				fault={fault("fresh")}
			/>
			{problem && !problem.errors && <Note tone="brick">{problem.detail}</Note>}
			<div>
				<Button look="go" type="submit" busy={change.isPending}>
					{t("Change it")}
				</Button>
			</div>
		</form>
	);
}

type FieldProps = {
	name: "current" | "fresh";
	label: string;
	value: string;
	change: (value: string) => void;
	fault: string | undefined;
};

function PasswordField({ name, label, value, change, fault }: FieldProps) {
	return (
		<div>
			<Label htmlFor={name}>{label}</Label>
			<input
				id={name}
				type="password"
				autoComplete={name === "current" ? "current-password" : "new-password"}
				required
				aria-invalid={!!fault}
				aria-describedby={`fault-${name}`}
				className={fieldLook(!!fault)}
				value={value}
				onChange={(e) => change(e.target.value)}
			/>
			<FieldFault id={`fault-${name}`} sentence={fault} />
		</div>
	);
}

function Elsewhere() {
	const end = useSignOutOthers();
	const say = useSay();
	return (
		<section className="mt-4 rounded-[4px] border border-rule bg-sheet px-4 py-3">
			<h2 className="text-[17px]">{t("Signed in elsewhere")}</h2>
			<p className="my-1.5 text-body">
				{t(
					"A browser that is not used for three days signs itself out. Signing out elsewhere ends all sessions but this one.",
				)}
			</p>
			{end.error && <Note tone="brick">{problemOf(end.error).detail}</Note>}
			<Button
				busy={end.isPending}
				onClick={() => end.mutate(undefined, { onSuccess: () => say(t("Signed out everywhere else")) })}
			>
				{t("Sign out everywhere else")}
			</Button>
		</section>
	);
}
