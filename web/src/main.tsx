import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { AccountPage } from "./account/AccountPage";
import { ProblemError } from "./api/client";
import { Guest } from "./guest/Guest";
import { MeetingPage } from "./meeting/MeetingPage";
import { SheetPage } from "./sheet/SheetPage";
import { Lost } from "./shell/Lost";
import { Shell } from "./shell/Shell";
import { SignIn } from "./signin/SignIn";
import "./theme.css";
import { Notices } from "./ui/notice";
import { Weeks } from "./weeks/Weeks";

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

const router = createBrowserRouter([
	{ path: "/sign-in", element: <SignIn /> },
	{ path: "/guest/:token", element: <Guest /> },
	{
		element: <Shell />,
		children: [
			{ path: "/", element: <Navigate to="/weeks" replace /> },
			{ path: "/weeks", element: <Weeks /> },
			{ path: "/sheet/:id", element: <SheetPage /> },
			{ path: "/meeting/:id", element: <MeetingPage /> },
			{ path: "/account", element: <AccountPage /> },
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
