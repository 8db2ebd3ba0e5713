// What changes for how many accounts, and for visitors, in words.
import type { Shapes } from "../../api/client";
import { count } from "../time";

export type Total = Shapes["TotalShape"];
type Touched = Pick<Total, "gain" | "lose" | "visitors_gain" | "visitors_lose">;
type Those = { accounts: number | null; visitors: boolean };

/** What is said where whoever looks may not know of people. */
export const UNTOLD = "who gains and loses is told to whoever sees the roster";

const gaining = (touched: Touched): Those => ({ accounts: touched.gain, visitors: touched.visitors_gain });
const losing = (touched: Touched): Those => ({ accounts: touched.lose, visitors: touched.visitors_lose });

/** Whether people are counted for whoever looks. */
export function isTold(touched: Touched): boolean {
  return touched.gain !== null;
}

export function touchesNobody(touched: Touched): boolean {
  return those(gaining(touched)) === "" && those(losing(touched)) === "";
}

/** "11 accounts gain", "nobody gains". */
export function gainWords(touched: Touched): string {
  return does(gaining(touched), "gains", "gain");
}

/** "1 account and visitors lose", "nobody loses". */
export function loseWords(touched: Touched): string {
  return does(losing(touched), "loses", "lose");
}

/** "11 accounts gain · nobody loses". */
export function bothWords(touched: Touched): string {
  if (!isTold(touched)) return touchedWords(touched) || UNTOLD;
  return `${gainWords(touched)} · ${loseWords(touched)}`;
}

/** Both, without those who are nobody. */
export function touchedWords(touched: Touched): string {
  const words = [those(gaining(touched)) && gainWords(touched), those(losing(touched)) && loseWords(touched)];
  return words.filter(Boolean).join(", ");
}

/** "11 accounts may now edit pages, up to 12 each", and the same of those who no longer may. */
export function changeWords(total: Total): string {
  const words = [
    may(gaining(total), `may now ${total.words}`, total.places, total.most_gained),
    may(losing(total), `may no longer ${total.words}`, total.places, total.most_lost),
  ];
  return words.filter(Boolean).join("; ");
}

/** What changes about whole pages and plain duties, and what about fields and components. */
export function wholeAndParts<T extends { key: string }>(changes: T[]): [T[], T[]] {
  const part = ({ key }: T) => key.includes(" ");
  return [changes.filter((change) => !part(change)), changes.filter(part)];
}

function does(some: Those, one: string, many: string): string {
  return `${those(some) || "nobody"} ${isOne(some) || !those(some) ? one : many}`;
}

function may(some: Those, words: string, places: boolean, most: number | null): string {
  if (!those(some)) return "";
  const where =
    !places || most === null
      ? ""
      : isOne(some)
        ? `: ${most}`
        : most === 1
          ? ", one each"
          : `, up to ${most} each`;
  return `${those(some)} ${words}${where}`;
}

function those({ accounts, visitors }: Those): string {
  return [accounts !== null && accounts > 0 && count(accounts, "account"), visitors && "visitors"]
    .filter(Boolean)
    .join(" and ");
}

function isOne({ accounts, visitors }: Those): boolean {
  return accounts === 1 && !visitors;
}
