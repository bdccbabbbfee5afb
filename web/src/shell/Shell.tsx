import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { api, ProblemError, take } from "../api/client";
import { useLive } from "../api/live";
import { useMe } from "../api/me";
import { useOpenSheet } from "../sheet/deeds";
import { city, clock } from "../time/format";
import { useNow } from "../time/now";
import { Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { Keys } from "./Keys";
import { useKeys } from "./keys";
import { Wordmark } from "./Wordmark";

/** The frame around every view of somebody signed in. */
export function Shell() {
	const me = useMe();
	const { pathname, search } = useLocation();
	if (me.isPending) return <Skeleton lines={5} />;
	if (me.error instanceof ProblemError && me.error.problem.status === 401)
		return <Navigate to={`/sign-in?to=${encodeURIComponent(pathname + search)}`} replace />;
	if (me.error)
		return (
			<main className="mx-auto max-w-[480px] p-8">
				<TryAgain error={me.error} again={() => me.refetch()} />
			</main>
		);
	return <Frame name={me.data.name} zone={me.data.zone} />;
}

function Frame({ name, zone }: { name: string; zone: string }) {
	useLive();
	const [help, setHelp] = useState(false);
	const open = useOpenSheet();
	useKeys({ m: () => open.mutate({}), "?": () => setHelp(true) });
	return (
		<div className="flex min-h-screen flex-col">
			<header className="flex min-h-[54px] flex-wrap items-center gap-x-5 border-rule border-b bg-sheet px-5">
				<NavLink to="/weeks" aria-label="Jembro, to your weeks" className="text-ink no-underline">
					<Wordmark />
				</NavLink>
				<nav aria-label="Views" className="flex gap-1">
					<NavLink
						to="/weeks"
						className={({ isActive }) =>
							`px-2.5 py-1 no-underline ${isActive ? "font-[650] text-ink shadow-[inset_0_-3px_0_var(--color-moss)]" : "text-quiet"}`
						}
					>
						Weeks
					</NavLink>
				</nav>
				<span className="ml-auto text-small">
					<Clock zone={zone} />
				</span>
				<Account name={name} onHelp={() => setHelp(true)} />
			</header>
			<Outlet />
			{help && <Keys onClose={() => setHelp(false)} />}
		</div>
	);
}

function Clock({ zone }: { zone: string }) {
	const now = useNow();
	return (
		<>
			<span className="text-quiet">{city(zone)}</span> {clock(now.toZonedDateTimeISO(zone))}
		</>
	);
}

function Account({ name, onHelp }: { name: string; onHelp: () => void }) {
	const navigate = useNavigate();
	const queries = useQueryClient();
	const leave = async () => {
		await take(api.DELETE("/api/session"));
		queries.clear();
		navigate("/sign-in");
	};
	const item =
		"block w-full px-3 py-1.5 text-left data-focus:bg-fig-wash data-focus:shadow-[inset_4px_0_0_var(--color-fig)]";
	return (
		<Menu as="div" className="relative">
			<MenuButton className="rounded-[4px] border border-rule bg-sheet px-[11px] py-[5px]">
				{name} <span aria-hidden>▾</span>
			</MenuButton>
			<MenuItems
				modal={false}
				className="absolute right-0 z-20 mt-1 w-44 rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
			>
				<MenuItem>
					<button type="button" className={item} onClick={onHelp}>
						Keys
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={item} onClick={() => navigate("/account")}>
						Account
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={item} onClick={leave}>
						Sign out
					</button>
				</MenuItem>
			</MenuItems>
		</Menu>
	);
}
