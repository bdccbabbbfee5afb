import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, redirect } from "react-router";
import { RouterProvider } from "react-router/dom";
import { ProblemError, signedOut } from "./api/client";
import { keys } from "./api/keys";
import { SheetPage } from "./sheet/SheetPage";
import { Lost } from "./shell/Lost";
import { Shell } from "./shell/Shell";
import { SignIn } from "./signin/SignIn";
import "./theme.css";
import { TodayPage } from "./today/TodayPage";
import { Notices } from "./ui/notice";

const queries = new QueryClient({
	defaultOptions: {
		queries: {
			staleTime: 5000,
			// A refusal stays one; a lost connection is tried again.
			retry: (count, error) => !(error instanceof ProblemError && error.problem.status < 500) && count < 3,
			retryDelay: 1000,
		},
	},
});

signedOut.hear = () => void queries.invalidateQueries({ queryKey: keys.me });

/** The pages one goes to from Today are fetched once it stands. */
const later = {
	news: async () => ({ Component: (await import("./news/NewsPage")).NewsPage }),
	weeks: async () => ({ Component: (await import("./weeks/Weeks")).Weeks }),
	meeting: async () => ({ Component: (await import("./meeting/MeetingPage")).MeetingPage }),
};
// What cannot be fetched now is fetched when it is asked for.
window.addEventListener("load", () =>
	setTimeout(() => Object.values(later).map((page) => page().catch(() => {})), 1000),
);

const router = createBrowserRouter([
	{ path: "/sign-in", element: <SignIn /> },
	{ path: "/m/:code", lazy: async () => ({ Component: (await import("./guest/AtAddress")).AtAddress }) },
	{ path: "/guest/:token", lazy: async () => ({ Component: (await import("./guest/Guest")).Guest }) },
	{
		element: <Shell />,
		children: [
			{ path: "/", loader: () => redirect("/today") },
			{ path: "/today", element: <TodayPage /> },
			{ path: "/new", lazy: later.news },
			{ path: "/weeks", lazy: later.weeks },
			{ path: "/dispatch", lazy: async () => ({ Component: (await import("./dispatch/DispatchPage")).DispatchPage }) },
			{ path: "/rooms", lazy: async () => ({ Component: (await import("./rooms/RoomsPage")).RoomsPage }) },
			{ path: "/room/:id", lazy: async () => ({ Component: (await import("./rooms/RoomPage")).RoomPage }) },
			{ path: "/drafts", lazy: async () => ({ Component: (await import("./sheet/Drafts")).Drafts }) },
			{ path: "/sheet/:id", element: <SheetPage /> }, // not fetched later: what is typed after the key is its title
			{ path: "/meeting/:id", lazy: later.meeting },
			{
				path: "/invitation/:id",
				lazy: async () => ({ Component: (await import("./invitation/InvitationPage")).InvitationPage }),
			},
			{ path: "/hours", lazy: async () => ({ Component: (await import("./hours/HoursPage")).HoursPage }) },
			{ path: "/standing", lazy: async () => ({ Component: (await import("./standing/StandingPage")).StandingPage }) },
			{
				path: "/providers/:key?",
				lazy: async () => ({ Component: (await import("./providers/ProvidersPage")).ProvidersPage }),
			},
			{ path: "/account", lazy: async () => ({ Component: (await import("./account/AccountPage")).AccountPage }) },
			{ path: "*", element: <Lost /> },
		],
	},
]);

const root = document.getElementById("root");
if (root)
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={queries}>
				<Notices>
					<RouterProvider router={router} />
				</Notices>
			</QueryClientProvider>
		</StrictMode>,
	);
