import ts from "typescript";
import { expect, it } from "vitest";
import { sources } from "../test/sources";

const letters = /\p{L}{2,}/u;
/** What people read: two words with a space between, of which one is no name. */
const sentence = /\p{Ll}{2,}[,;:’”.]? [“(@\p{L}]|\p{L} \p{Ll}{2,}/u;
/** A word that stands at the begin of a label. */
const label = /^\p{Lu}\p{Ll}+\b/u;

/** Attributes that hold something for the browser. */
const technical =
	/^(className|style|to|href|src|id|key|htmlFor|type|rel|role|d|viewBox|transform|points|accept|autoComplete|sandbox|preserveAspectRatio)$|^aria-(describedby|labelledby|controls|live|haspopup|current|atomic|owns|activedescendant)$|^data-/;

/** Calls whose texts nobody reads, or that say them. */
const quiet =
	/^(t|many|term|row|querySelector|querySelectorAll|closest|matchMedia|matches|addEventListener|removeEventListener|import|setItem|getItem|removeItem|getPropertyValue|setAttribute|getAttribute|createElement|GET|POST|PUT|PATCH|DELETE|Error|wordsWidth)$/;

/** Texts that are no words of a language: names of keys, of the product, of kinds of files. */
const same = new Set([
	"Esc",
	"Ctrl ↓ ↑",
	"Ctrl ↵",
	"o, Shift o",
	"Page Up, Page Down",
	"Shift ← →",
	"Enter",
	"jembro",
	"Jembro",
	".ics",
]);

/** Fonts, headers and selectors. */
const technicalText = /^\d{3} [\d.]+px '|^reminded @|^Jembro-|:not\(|^\[data-|^\{id\}$|^waits ==/;

/** Files whose English is there for another reason. */
const reasons: Record<string, string> = {
	"time/format.ts": "English writes its days in the way of this house; other languages take CLDR's",
	"time/zones.ts": "what a zone is found by",
};

/** The parts of a sheet go by these codes, which partWords says. */
const parts = new Set(["Title", "When", "Who", "Where", "Link", "Text", "Files"]);

const callee = (n: ts.Node) => {
	if (!ts.isCallExpression(n) && !ts.isNewExpression(n)) return "";
	const f = n.expression;
	return ts.isPropertyAccessExpression(f) ? f.name.text : f.getText();
};

/** Whether a text is for the program: within a technical attribute, a quiet call, a comparison, a type or a key. */
function unread(n: ts.Node): boolean {
	const p = n.parent;
	if (ts.isLiteralTypeNode(p) || ts.isImportDeclaration(p) || ts.isExportDeclaration(p) || ts.isCaseClause(p))
		return true;
	if (ts.isPropertyAssignment(p) && (p.name === n || p.name.getText() === "id")) return true;
	if (ts.isElementAccessExpression(p)) return true;
	if (ts.isBinaryExpression(p) && /^[!=]==?$|^in$/.test(p.operatorToken.getText())) return true;
	for (let up: ts.Node = n; up.parent && !ts.isStatement(up); up = up.parent) {
		const at = up.parent;
		if (ts.isJsxAttribute(at)) {
			if (technical.test(at.name.getText()) || /[Ll]ook$|Class$/.test(at.name.getText())) return true;
			continue;
		}
		if (ts.isJsxElement(at) || ts.isJsxSelfClosingElement(at)) return false;
		if (quiet.test(callee(at))) return true;
	}
	return false;
}

/** Classes of the style sheet: every piece is small letters, digits and signs, and one has a hyphen, a colon or a bracket. */
const look = (text: string) =>
	/^[-\w:[\]()./%#&,+*'"=>!~@]+( [-\w:[\]()./%#&,+*'"=>!~@]+)*$/.test(text.trim()) &&
	text
		.trim()
		.split(/\s+/)
		.some((p) => /[-:[]/.test(p)) &&
	!/^\p{Lu}/u.test(text.trim()) &&
	!/[a-z], [a-z]/.test(text);

/** Whether a text is drawn as it stands: what an element holds, under a condition or not. */
function drawn(n: ts.Node): boolean {
	const p = n.parent;
	if (ts.isJsxExpression(p)) return ts.isJsxElement(p.parent) || ts.isJsxFragment(p.parent);
	const chosen = ts.isConditionalExpression(p) ? p.condition !== n : ts.isBinaryExpression(p) && p.right === n;
	return (chosen || ts.isParenthesizedExpression(p)) && drawn(p);
}

/** Whether people read a text that is written in the code. */
const read = (n: ts.Node, text: string) =>
	!same.has(text) &&
	!technicalText.test(text) &&
	(drawn(n) ? letters.test(text) : (sentence.test(text) || label.test(text)) && !look(text) && !unread(n));

/** Whether a text is the code of a part of the sheet, where nothing is labelled with it. */
const code = (n: ts.Node, text: string) =>
	parts.has(text) && !(ts.isJsxAttribute(n.parent) && /label|title/.test(n.parent.name.getText()));

/** What the browser reads, and nobody else: lengths, classes, selectors. */
const forBrowser = /calc\(|\b(text|bg|data|max|min|border)-[a-z]|\[[a-z-]+=|^\d{3} [\d.]+px/;

type Found = { at: string; text: string };

function looked() {
	const outside: Found[] = [];
	const early: Found[] = [];
	const pieces: Found[] = [];
	const codes: Found[] = [];
	const ids = new Set<string>();
	const excused = new Set<string>();
	for (const file of sources) {
		const at = (n: ts.Node) => `${file.fileName}:${file.getLineAndCharacterOfPosition(n.getStart()).line + 1}`;
		const note = (to: Found[], n: ts.Node, text: string) =>
			to.push({ at: at(n), text: text.replace(/\s+/g, " ").trim() });
		const visit = (n: ts.Node, within: boolean) => {
			if (ts.isJsxText(n) && letters.test(n.text) && !same.has(n.text.trim())) note(outside, n, n.text);
			const text =
				ts.isStringLiteral(n) || ts.isNoSubstitutionTemplateLiteral(n)
					? n.text
					: ts.isTemplateExpression(n)
						? [n.head.text, ...n.templateSpans.map((s) => s.literal.text)].join("@")
						: "";
			if (text && read(n, text) && !(file.fileName.startsWith("sheet/") && code(n, text))) {
				if (reasons[file.fileName]) excused.add(file.fileName);
				else note(outside, n, text);
			}
			const said = callee(n);
			if ((said === "t" || said === "many" || said === "term") && ts.isCallExpression(n)) {
				if (!within && said !== "term") note(early, n, n.getText());
				for (const a of n.arguments)
					if (ts.isStringLiteral(a)) {
						ids.add(a.text);
						if (/^\s|\s$|^[,;.:·]/.test(a.text)) note(pieces, n, a.text);
						if (forBrowser.test(a.text)) note(codes, n, a.text);
					}
			}
			ts.forEachChild(n, (k) => visit(k, within || ts.isFunctionLike(n)));
		};
		visit(file, false);
	}
	return { outside, early, pieces, codes, ids, excused };
}

const { outside, early, pieces, codes, ids, excused } = looked();
const lines = (all: Found[]) => all.map((f) => `${f.at}: ${f.text}`).join("\n");

it("says everything that people read from the catalogue", () => {
	expect(sources.length).toBeGreaterThan(150);
	expect(ids.size).toBeGreaterThan(800);
	expect(lines(outside)).toBe("");
	expect(excused).toEqual(new Set(Object.keys(reasons)));
});

it("says nothing before the language of the page is known", () => {
	expect(lines(early)).toBe("");
});

it("keeps sentences whole: other languages put their words in another order", () => {
	expect(lines(pieces)).toBe("");
});

it("says nothing that is for the browser alone", () => {
	expect(lines(codes)).toBe("");
});
