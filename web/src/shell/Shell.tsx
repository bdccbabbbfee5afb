import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { lazy, type ReactNode, Suspense, useState } from "react";
import { Navigate, NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { api, ProblemError, take } from "../api/client";
import { useLive } from "../api/live";
import { useMe } from "../api/me";
import { tellOfSession } from "../api/stream";
import { useUnread } from "../news/deeds";
import { useOpenSheet } from "../sheet/open";
import { city, clock } from "../time/format";
import { useNow } from "../time/now";
import { useLoose } from "../today/deeds";
import { InTongue } from "../tongue/InTongue";
import { t } from "../tongue/tongue";
import { itemLook, Kbd, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { useKeys } from "./keys";
import { Reminder } from "./Reminder";
import { Silence } from "./Silence";
import { Wordmark } from "./Wordmark";

// What comes up at a press comes when it is asked for.
const FindDialog = lazy(async () => ({ default: (await import("../find/FindDialog")).FindDialog }));
const Keys = lazy(async () => ({ default: (await import("./Keys")).Keys }));
const Shapes = lazy(async () => ({ default: (await import("./Shapes")).Shapes }));

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
	return (
		<InTongue language={me.data.language}>
			{(language) => (
				<Frame key={language} name={me.data.name} zone={me.data.zone} keepsProviders={me.data.keepsProviders} />
			)}
		</InTongue>
	);
}

function Frame({ name, zone, keepsProviders }: { name: string; zone: string; keepsProviders: boolean }) {
	useLive();
	const [shown, setShown] = useState<"keys" | "shapes" | "find" | null>(null);
	const open = useOpenSheet();
	const navigate = useNavigate();
	const unread = useUnread();
	const loose = useLoose();
	useKeys({
		m: () => open({}),
		e: () => navigate("/today"),
		n: () => navigate("/new"),
		w: () => navigate("/weeks"),
		r: () => navigate("/rooms"),
		d: () => navigate("/dispatch"),
		f: () => setShown("find"),
		"?": () => setShown("keys"),
	});
	const close = () => setShown(null);
	return (
		<div className="flex min-h-screen min-w-0 flex-col">
			<header className="flex min-h-[54px] flex-wrap items-center gap-x-5 gap-y-1 border-rule border-b bg-sheet px-5 py-1">
				<NavLink to="/today" aria-label={t("Jembro, to your day")} className="text-ink no-underline">
					<Wordmark />
				</NavLink>
				<nav aria-label={t("Views")} className="flex gap-1">
					<View to="/today">
						{t("Today")}
						<Count n={loose} what={t("loose")} />
					</View>
					<View to="/new">
						{t("New")}
						<Count n={unread} what={t("not read")} />
					</View>
					<View to="/weeks">{t("Weeks")}</View>
					<View to="/rooms" under="/room/">
						{t("Rooms")}
					</View>
					<View to="/dispatch">{t("Dispatch")}</View>
				</nav>
				<Reminder />
				<button
					type="button"
					onClick={() => setShown("find")}
					className="ml-auto flex items-center gap-1.5 border-rule border-b-2 px-1 py-0.5 text-quiet hover:border-ink hover:text-ink"
				>
					<Search aria-hidden size={15} />
					<span className="max-sm:sr-only">{t("Find, or jump to a date")}</span>
					<Kbd>f</Kbd>
				</button>
				<span className="text-small max-sm:hidden">
					<Clock zone={zone} />
				</span>
				<Account
					name={name}
					keepsProviders={keepsProviders}
					onKeys={() => setShown("keys")}
					onShapes={() => setShown("shapes")}
				/>
			</header>
			<Silence />
			<Outlet />
			<Suspense>
				{shown === "keys" && <Keys onClose={close} />}
				{shown === "shapes" && <Shapes onClose={close} />}
				{shown === "find" && <FindDialog onClose={close} />}
			</Suspense>
		</div>
	);
}

const Count = ({ n, what }: { n: number; what: string }) =>
	n > 0 && (
		<span className="ml-1.5 rounded-[3px] bg-brick-wash px-1.5 py-px font-[650] text-brick text-small">
			{n > 99 ? "99+" : n}
			<span className="sr-only"> {what}</span>
		</span>
	);

const View = ({ to, under, children }: { to: string; under?: string; children: ReactNode }) => {
	const { pathname } = useLocation();
	const within = under !== undefined && pathname.startsWith(under);
	return (
		<NavLink
			to={to}
			className={({ isActive }) =>
				`px-2.5 py-1 no-underline ${isActive || within ? "font-[650] text-ink shadow-[inset_0_-3px_0_var(--color-moss)]" : "text-quiet"}`
			}
		>
			{children}
		</NavLink>
	);
};

function Clock({ zone }: { zone: string }) {
	const now = useNow();
	return (
		<>
			<span className="text-quiet">{city(zone)}</span> {clock(now.toZonedDateTimeISO(zone))}
		</>
	);
}

type AccountProps = { name: string; keepsProviders: boolean; onKeys: () => void; onShapes: () => void };

function Account({ name, keepsProviders, onKeys, onShapes }: AccountProps) {
	const navigate = useNavigate();
	const queries = useQueryClient();
	const leave = async () => {
		await take(api.DELETE("/api/session"));
		queries.clear();
		tellOfSession();
		navigate("/sign-in");
	};
	return (
		<Menu as="div" className="relative">
			<MenuButton className="rounded-[4px] border border-rule bg-sheet px-[11px] py-[5px]">
				{name} <span aria-hidden>▾</span>
			</MenuButton>
			<MenuItems
				modal={false}
				className="absolute right-0 z-20 mt-1 w-52 rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
			>
				<MenuItem>
					<button type="button" className={itemLook} onClick={() => navigate("/hours")}>
						{t("Hours and calendars")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={itemLook} onClick={() => navigate("/drafts")}>
						{t("Sheets and files in")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={itemLook} onClick={() => navigate("/standing")}>
						{t("Standing rooms")}
					</button>
				</MenuItem>
				{keepsProviders && (
					<MenuItem>
						<button type="button" className={itemLook} onClick={() => navigate("/providers")}>
							{t("Providers")}
						</button>
					</MenuItem>
				)}
				<MenuItem>
					<button type="button" className={itemLook} onClick={onKeys}>
						{t("Keys")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={itemLook} onClick={onShapes}>
						{t("What the shapes mean")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={itemLook} onClick={() => navigate("/account")}>
						{t("Account")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={itemLook} onClick={leave}>
						{t("Sign out")}
					</button>
				</MenuItem>
			</MenuItems>
		</Menu>
	);
}
