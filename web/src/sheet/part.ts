import type { Schemas } from "../api/client";

/** What every part of the sheet gets. What is typed into title and text goes past them: `draft` is without both. */
export type Part = {
	sheet: Schemas["Sheet"];
	draft: Frame;
	change: (part: Partial<Schemas["Draft"]>) => void;
	faults: Schemas["FieldError"][];
	day: Schemas["Day"] | undefined;
	dates: Schemas["SheetDates"] | undefined;
};

/** A draft without its words. */
export type Frame = Omit<Schemas["Draft"], "title" | "text">;

export function frameOf({ title: _, text: __, ...frame }: Schemas["Draft"]): Frame {
	return frame;
}

/** What a room must have. */
export type Filter = { equipment: string[]; siteId: string };

export const faultAt = (faults: Schemas["FieldError"][], field: string) => faults.find((f) => f.field === field);
