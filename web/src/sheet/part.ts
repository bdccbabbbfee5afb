import type { Schemas } from "../api/client";
import type { DraftStore } from "./draft/store";

/** What every part of the sheet gets. What is typed goes past them: `draft` is without it. */
export type Part = {
	sheet: Schemas["Sheet"];
	draft: Frame;
	change: (part: Partial<Schemas["Draft"]>) => void;
	faults: Schemas["FieldError"][];
	day: Schemas["Day"] | undefined;
	dates: Schemas["SheetDates"] | undefined;
	store: DraftStore;
};

/** A draft without its words and what stands in its fields. */
export type Frame = Omit<Schemas["Draft"], "title" | "text" | "cover" | "typed">;

export function frameOf({ title: _, text: __, cover: ___, typed: ____, ...frame }: Schemas["Draft"]): Frame {
	return frame;
}

/** What a room must have. */
export type Filter = { equipment: string[]; siteId: string };

export const faultAt = (faults: Schemas["FieldError"][], field: string) => faults.find((f) => f.field === field);
