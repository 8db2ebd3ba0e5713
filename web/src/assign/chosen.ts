// Which accounts are chosen in the roster: some by their ids, or all that the filters find.
import type { Shapes } from "../api/client";
import type { RosterFilter } from "../shared/useAccounts";

export type Selected = { ids: ReadonlySet<string>; all: boolean; matching: number; filter: RosterFilter };

const NO_FILTER: RosterFilter = { search: "", role: "", group: "", state: "", show: "" };
export const NOBODY: Selected = { ids: new Set(), all: false, matching: 0, filter: NO_FILTER };

/** With some accounts chosen too, or chosen no longer. */
export function turned(selected: Selected, ids: string[], on: boolean): Selected {
  const next = new Set(selected.all ? [] : selected.ids);
  for (const id of ids) {
    if (on) next.add(id);
    else next.delete(id);
  }
  return { ...selected, all: false, ids: next };
}

/** How a request names them. */
export function naming({
  all,
  ids,
  filter,
}: Selected): Pick<Shapes["ManyInputRequest"], "accounts" | "all_that_match"> {
  return all ? { all_that_match: { ...filter, show: filter.show ?? "" } } : { accounts: [...ids] };
}

/** How many are chosen. */
export function howMany({ all, ids, matching }: Selected): number {
  return all ? matching : ids.size;
}
