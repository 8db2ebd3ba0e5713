// What turns for how many accounts, in words.
import type { Shapes } from "../api/client";
import { count } from "./time";

export type Total = Shapes["TotalShape"];

/** "11 accounts may now edit pages, up to 12 each", and the same of those who no longer may. */
export function turningWords(total: Total): string {
  const gains = total.gain > 0 && `${count(total.gain, "account")} may now ${total.words}`;
  const loses = total.lose > 0 && `${count(total.lose, "account")} may no longer ${total.words}`;
  return [
    gains && gains + places(total, total.gain, total.most_gained),
    loses && loses + places(total, total.lose, total.most_lost),
  ]
    .filter(Boolean)
    .join("; ");
}

function places(total: Total, accounts: number, most: number): string {
  if (!total.places) return "";
  if (accounts === 1) return `: ${most}`;
  return most === 1 ? ", one each" : `, up to ${most} each`;
}

/** What turns about whole pages and plain duties, and what about fields and components. */
export function wholeAndParts(turns: Total[]): [Total[], Total[]] {
  const part = (total: Total) => total.key.includes(" ");
  return [turns.filter((total) => !part(total)), turns.filter(part)];
}
