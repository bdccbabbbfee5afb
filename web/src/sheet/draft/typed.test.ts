import { expect, test } from "vitest";
import { thisWindow } from "../../api/window";
import { mergedTyped, typedIn, withTyped } from "./typed";

const t = (field: string, text: string) => ({ field, text });

test("what is typed into a field takes the place of what stood there", () => {
	expect(withTyped([t("start", "9"), t("end", "1")], "start", "93")).toEqual([
		t("end", "1"),
		{ ...t("start", "93"), window: thisWindow },
	]);
	expect(withTyped([t("start", "9")], "start", null)).toEqual([]);
	expect(typedIn([t("start", "9")], "start")).toBe("9");
	expect(typedIn(undefined, "start")).toBeNull();
});

test("what the program read is gone, also while another field is typed in", () => {
	expect(mergedTyped([], [t("start", "+45")], [t("start", "+45")])).toEqual([]);
	expect(mergedTyped([], [t("start", "+45")], [t("start", "+45"), t("end", "1")])).toEqual([t("end", "1")]);
});

test("what is typed on stays, and what could not be read", () => {
	expect(mergedTyped([t("start", "9h")], [t("start", "9h")], [t("start", "9h3")])).toEqual([t("start", "9h3")]);
	expect(mergedTyped([t("end", "late")], [t("end", "late")], [t("end", "late")])).toEqual([t("end", "late")]);
	expect(mergedTyped([t("end", "late")], [t("end", "late")], [])).toEqual([]);
});

test("those who are unclear come one by one, and go one by one", () => {
	const [ana, rui] = [t("unclear", "Ana"), t("unclear", "Rui")];
	expect(mergedTyped([ana, rui], [t("people", "Ana, Rui")], [t("people", "Ana, Rui")])).toEqual([ana, rui]);
	expect(mergedTyped([ana, rui], [ana, rui], [rui])).toEqual([rui]);
	expect(mergedTyped([ana], [ana], [ana, rui])).toEqual([ana, rui]);
});
