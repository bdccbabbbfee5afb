/// <reference types="vite/client" />
import ts from "typescript";

/** The files of the interface by their path; tests and what is made are left out. */
const texts = import.meta.glob<string>(
	["../**/*.{ts,tsx}", "!../**/*.test.{ts,tsx}", "!../test/**", "!../**/*.gen.d.ts"],
	{
		query: "?raw",
		import: "default",
		eager: true,
	},
);

/** They as the compiler reads them, for tests of what is written in them. */
export const sources = Object.entries(texts).map(([path, text]) =>
	ts.createSourceFile(path.replace("../", ""), text, ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX),
);
