import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

/** A question or a look at something, in front of the page. Esc closes it. */
export function Question(props: { title: string; onClose: () => void; wide?: boolean; children: ReactNode }) {
	return (
		<Dialog open onClose={props.onClose} className="relative z-20">
			<DialogBackdrop className="fixed inset-0 bg-ink/25" />
			<div className="fixed inset-0 flex items-start justify-center overflow-y-auto p-4 pt-[8vh]">
				<DialogPanel
					className={`rounded-[5px] border border-ink bg-sheet p-4 shadow-[6px_6px_0_rgb(29_42_44/0.12)] ${props.wide ? "w-full max-w-[980px]" : "w-full max-w-[440px]"}`}
				>
					<DialogTitle className="text-[17px]">{props.title}</DialogTitle>
					{props.children}
				</DialogPanel>
			</div>
		</Dialog>
	);
}
