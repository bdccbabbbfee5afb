/// <reference types="vite/client" />
import ts from "typescript";
import { describe, expect, it } from "vitest";
import { sources } from "../test/sources";
import contract from "./contract.gen.d.ts?raw";

/** The fields of a shape of the contract. */
function fieldsOf(shape: string): string[] {
	const found: string[] = [];
	const visit = (n: ts.Node) => {
		if (ts.isPropertySignature(n) && n.name.getText() === shape && n.type && ts.isTypeLiteralNode(n.type))
			for (const m of n.type.members) if (m.name) found.push(m.name.getText().replaceAll('"', ""));
		ts.forEachChild(n, visit);
	};
	visit(ts.createSourceFile("contract.ts", contract, ts.ScriptTarget.Latest, true));
	return found;
}

/** What is read somewhere below some folders: x.name, or { name }. */
function readIn(folders: string[]) {
	const all = new Set<string>();
	for (const file of sources) {
		if (!folders.some((f) => file.fileName.startsWith(`${f}/`))) continue;
		const visit = (n: ts.Node) => {
			if (ts.isPropertyAccessExpression(n)) all.add(n.name.text);
			if (ts.isBindingElement(n)) all.add((n.propertyName ?? n.name).getText());
			if (ts.isPropertyAssignment(n) || ts.isShorthandPropertyAssignment(n)) all.add(n.name.getText());
			if (ts.isStringLiteral(n)) all.add(n.text);
			ts.forEachChild(n, visit);
		};
		visit(file);
	}
	return all;
}

/** Fields that a screen leaves out, and why. */
const leftOut: Record<string, Record<string, string>> = {
	Draft: { noWays: "is answered through the ways of the sheet, and goes back as it came" },
};

describe("every field of the contract has its place on the screen", () => {
	it.each<[string, string[]]>([
		["Draft", ["sheet", "series"]],
		["Meeting", ["meeting", "series", "proposals"]],
		["GuestMeeting", ["guest", "meeting", "series", "proposals", "ui"]],
		["TodayItem", ["today", "shell"]],
		["LooseEnd", ["today"]],
		["News", ["news"]],
		["WeekMeeting", ["weeks", "timeline"]],
		["RoomUse", ["rooms"]],
		["SentLine", ["dispatch"]],
		["Invitation", ["invitation"]],
		["StandingLink", ["standing"]],
	])("%s", (shape, folders) => {
		const known = leftOut[shape] ?? {};
		const read = readIn(folders);
		const fields = fieldsOf(shape);
		expect(fields.length).toBeGreaterThan(5);
		expect(fields.filter((f) => !read.has(f) && !known[f])).toEqual([]);
		expect(Object.keys(known).filter((f) => read.has(f) || !fields.includes(f))).toEqual([]);
	});
});
