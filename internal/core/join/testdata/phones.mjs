// Reads phone numbers with libphonenumber-js, which is not Jembro's.
// Usage: node phones.mjs <path of libphonenumber-js> < numbers.json; the answer is [{number, country, words}] with null for none.
import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";

const { parsePhoneNumberFromString } = await import(pathToFileURL(process.argv.at(-1)));
const numbers = JSON.parse(readFileSync(0, "utf8"));
console.log(
	JSON.stringify(
		numbers.map((n) => {
			const p = parsePhoneNumberFromString(n);
			return p ? { number: p.number, country: p.country ?? "", words: p.formatInternational() } : null;
		}),
	),
);
