import { t } from "../tongue/tongue";
import { Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { useSchema } from "./deeds";

type Node = {
	$ref?: string;
	description?: string;
	type?: string | string[];
	enum?: string[];
	const?: string;
	properties?: Record<string, Node>;
	required?: string[];
	items?: Node;
	oneOf?: Node[];
	anyOf?: Node[];
	$defs?: Record<string, Node>;
};

/** All fields of a description, out of the schema by which it is checked. */
export function Fields() {
	const schema = useSchema();
	const root = schema.data as Node | undefined;
	return (
		<section aria-label={t("Fields of a description")} className="min-w-0 max-w-[900px] px-[18px] py-3.5">
			<h2 className="text-[19px]">{t("How to write one")}</h2>
			<p className="mt-1 text-body">
				{t(
					"Take the page on which the provider documents its interface, and say in this order: how it signs in, what it can do, which request makes a call, and where in the answer the link stands. Try it; the trial points at the line that does not fit.",
				)}
			</p>
			<p className="mt-1 text-body">
				{t("In bodies a text is an")} <b>{t("expression")}</b>: <code>{t("title")}</code>{" "}
				{t("is the title of the meeting,")} <code>{t("rfc3339(start)")}</code> {t("when it begins,")}{" "}
				<code>{`waits == "nobody" ? "OPEN" : "LOBBY"`}</code>{" "}
				{t("one of two texts. What comes to nothing is left out. In addresses")} <code>{"{id}"}</code>{" "}
				{t("is what was kept under that name.")}
			</p>
			{schema.isPending && <Skeleton lines={6} />}
			{schema.error && <TryAgain error={schema.error} again={() => schema.refetch()} />}
			{root && (
				<dl className="mt-3 text-[13px]">
					{rows(root, root, "", 0).map((r) => (
						<div key={r.at} className="border-rule border-t py-1.5" style={{ paddingLeft: r.depth * 18 }}>
							<dt>
								<code className="font-[650]">{r.at}</code>
								{r.needed && <span className="text-quiet text-small"> {t("needed")}</span>}
							</dt>
							<dd>
								{r.says}
								{r.choices && <span className="block text-quiet">{t("one of: %s", r.choices)}</span>}
								{r.kinds.map((d) => (
									<span key={d} className="block text-quiet">
										{d}
									</span>
								))}
							</dd>
						</div>
					))}
				</dl>
			)}
		</section>
	);
}

const resolved = (n: Node, root: Node): Node => {
	const name = n.$ref?.split("/").at(-1);
	return name ? { ...root.$defs?.[name], ...n } : n;
};

type Row = { at: string; depth: number; needed: boolean; says?: string; choices?: string; kinds: string[] };

/** The fields below a node, those of lists and of references too. */
function rows(node: Node, root: Node, path: string, depth: number): Row[] {
	if (depth > 4) return [];
	const own = resolved(node, root);
	return Object.entries(own.properties ?? {}).flatMap(([name, field]) => {
		const f = resolved(field, root);
		const at = path ? `${path}.${name}` : name;
		// All calls are alike: one of them is spelled out.
		const spelled = !(path === "calls" && name !== "make");
		const row: Row = {
			at,
			depth,
			needed: !!own.required?.includes(name),
			says: f.description,
			choices: choices(f, root),
			kinds: spelled ? (f.oneOf ?? []).flatMap((o) => o.description ?? []) : [],
		};
		return [row, ...(spelled ? rows(f.items ?? f, root, at, depth + 1) : [])];
	});
}

const choices = (f: Node, root: Node) => (f.enum ?? (f.items ? resolved(f.items, root).enum : undefined))?.join(", ");
