// What is to be known of an account at a glance, in a few words.
import { since } from "../shared/time";
import type { RosterRow } from "../shared/useAccounts";

const DAY = 86_400_000;

/** Each note of a row, in words. */
export function noteWords(row: RosterRow): string[] {
  return row.notes.map((note) => WORDS[note](row));
}

const WORDS: Record<RosterRow["notes"][number], (row: RosterRow) => string> = {
  invited: (row) => `invited ${ago(row.made_at)}`,
  holding: () => "disabled, still holds",
  visitor: () => "visitor",
  never: () => "never signed in",
  unseen: (row) => `not seen for ${since(row.last_seen)}`,
  nothing: () => "holds nothing",
  ends: () => "ends soon",
};

/** "today", "yesterday", "12 days ago". */
export function ago(iso: string): string {
  const days = Math.floor((Date.now() - new Date(iso).getTime()) / DAY);
  if (days < 1) return "today";
  return days === 1 ? "yesterday" : `${days} days ago`;
}
