import { lazy, Suspense } from "react";

const Linkify = lazy(() => import("linkify-react"));

/** A text in which addresses can be pressed. */
export const Linked = ({ children }: { children: string }) => (
	<Suspense fallback={children}>
		<Linkify options={{ defaultProtocol: "https", rel: "noreferrer", target: "_blank", className: "underline" }}>
			{children}
		</Linkify>
	</Suspense>
);
