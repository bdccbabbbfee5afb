import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type SubmitEvent, useEffect, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, problemOf, take } from "../api/client";
import { keys } from "../api/keys";
import { hearOfSession, tellOfSession } from "../api/stream";
import { Wordmark } from "../shell/Wordmark";
import { t } from "../tongue/tongue";
import { Button, fieldLook, Label, Note } from "../ui/kit";

function useSignIn() {
	const queries = useQueryClient();
	return useMutation({
		mutationFn: (who: { email: string; password: string }) => take(api.POST("/api/session", { body: who })),
		onSuccess: (me) => {
			queries.clear();
			queries.setQueryData(keys.me, me);
			tellOfSession();
		},
	});
}

/** Only places of this program are gone back to. */
const placeHere = (to: string | null) =>
	to?.startsWith("/") && !to.startsWith("//") && !to.includes("\\") ? to : "/today";

export function SignIn() {
	const navigate = useNavigate();
	const [params] = useSearchParams();
	const [email, setEmail] = useState("");
	const [password, setPassword] = useState("");
	const signIn = useSignIn();
	const to = placeHere(params.get("to"));
	// Somebody signed in in another window: this one goes on where it was.
	useEffect(
		() =>
			hearOfSession(
				() =>
					void take(api.GET("/api/me")).then(
						() => navigate(to, { replace: true }),
						() => {},
					),
			),
		[navigate, to],
	);
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		signIn.mutate({ email, password }, { onSuccess: () => navigate(to, { replace: true }) });
	};
	return (
		<main className="mx-auto max-w-[380px] px-4 pt-[14vh]">
			<Wordmark />
			<form
				onSubmit={submit}
				className="mt-5 flex flex-col gap-3 rounded-[4px] border border-rule border-t-[6px] border-t-moss bg-sheet p-6"
			>
				<h1 className="text-[23px]">{t("Sign in")}</h1>
				{signIn.error && <Note tone="brick">{problemOf(signIn.error).detail}</Note>}
				<div>
					<Label htmlFor="email">{t("E-mail address")}</Label>
					<input
						id="email"
						type="email"
						autoComplete="username"
						required
						// biome-ignore lint/a11y/noAutofocus: the page is for nothing else
						autoFocus
						className={fieldLook()}
						value={email}
						onChange={(e) => setEmail(e.target.value)}
					/>
				</div>
				<div>
					<Label htmlFor="password">{t("Password")}</Label>
					<input
						id="password"
						type="password"
						autoComplete="current-password"
						required
						className={fieldLook()}
						value={password}
						onChange={(e) => setPassword(e.target.value)}
					/>
				</div>
				<div>
					<Button look="go" type="submit" busy={signIn.isPending}>
						{t("Sign in")}
					</Button>
				</div>
			</form>
		</main>
	);
}
