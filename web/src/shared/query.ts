// One query client. Reads are kept a moment; a problem is never retried, a lost connection is.
import { MutationCache, notifyManager, QueryCache, QueryClient } from "@tanstack/react-query";
import { ProblemError } from "../api/client";
import { keys } from "./keys";

/** Whoever was signed out meanwhile is asked to sign in again; the place one was at stays in the address. */
function signedOut(error: unknown) {
  if (error instanceof ProblemError && error.problem.reason === "not-signed-in") {
    queryClient.invalidateQueries({ queryKey: keys.session });
  }
}

// By default a change is drawn a task later: behind whatever else came in meanwhile, a key would wait for it.
notifyManager.setScheduler(queueMicrotask);

export const queryClient = new QueryClient({
  queryCache: new QueryCache({ onError: signedOut }),
  mutationCache: new MutationCache({ onError: signedOut }),
  defaultOptions: {
    // Offline too, a request is tried: a failure that is told beats waiting that is not.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (count, error) => error instanceof ProblemError && error.problem.status === 0 && count < 2,
    },
  },
});

/** Everything that shows what is staged. */
const STAGED = [
  keys.boards,
  keys.changeSet,
  keys.impacts,
  keys.accounts,
  keys.groups,
  keys.delegations,
  keys.wheres,
  keys.markedTrees,
  keys.places,
  keys.limits,
  keys.fields,
  keys.pageAccesses,
  keys.whos,
];

/** Everything that applying may change. */
const ABOUT_ACCESS = [
  ...STAGED,
  keys.cells,
  keys.roles,
  keys.changeSets,
  keys.crossbar,
  keys.rosters,
  keys.expectations,
  keys.ledgers,
  keys.requests,
  keys.whys,
  keys.locks,
];

/** Ask anew for everything that a change of access may have changed. */
export function accessChanged(): Promise<void> {
  return refetch(ABOUT_ACCESS);
}

/** Ask anew for everything that shows what is staged. */
export function stagingChanged(): Promise<void> {
  return refetch(STAGED);
}

function refetch(every: string[][]): Promise<void> {
  const firsts = new Set(every.map(([first]) => first));
  return queryClient.invalidateQueries({ predicate: (query) => firsts.has(String(query.queryKey[0])) });
}
