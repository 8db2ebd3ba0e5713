// Where an account can do something: branches as bars, with counts.
import { count } from "../shared/time";
import { type AccountData, useWhere } from "../shared/useAccounts";

export function WherePicture({ account, reach }: { account: string; reach: AccountData["reach"] }) {
  const where = useWhere(account);
  return (
    <>
      <h2 className="mt-6 mb-1">Where</h2>
      {Object.entries(reach).map(([tree, branches]) => (
        <p key={tree} className="mb-1 text-sm">
          Confined in {tree} to <strong>{branches.map((b) => b.title).join(", ") || "nothing"}</strong>.
        </p>
      ))}
      {where.data && where.data.length > 0 && (
        <p className="mb-1 flex items-center gap-1.5 text-xs text-ink2">
          <Swatch colour={PUBLISHES} /> publishes
          <Swatch colour={EDITS} /> edits and does not publish, of the pages there
        </p>
      )}
      {where.data?.length === 0 && (
        <p className="text-sm text-ink2">Nowhere: it can edit and publish nothing.</p>
      )}
      <ul>
        {where.data?.map((branch) => (
          <li
            key={branch.id}
            className="grid grid-cols-[minmax(120px,230px)_minmax(60px,270px)_minmax(150px,1fr)] items-center gap-3 py-[4px] text-read"
          >
            <span className="truncate">
              {branch.title} <span className="text-xs text-ink2">{branch.above}</span>
            </span>
            <span className="flex h-[8px] overflow-hidden rounded-xs bg-linen2" aria-hidden="true">
              <span style={{ width: `${(branch.publishes / branch.nodes) * 100}%`, background: PUBLISHES }} />
              <span
                style={{
                  width: `${(Math.max(branch.edits - branch.publishes, 0) / branch.nodes) * 100}%`,
                  background: EDITS,
                }}
              />
            </span>
            <span className="figures text-ink2">
              edits {branch.edits} of {branch.nodes}, publishes {branch.publishes || "none"}
              <span className="block text-xs">{others(branch.counts)}</span>
            </span>
          </li>
        ))}
      </ul>
      {where.data && where.data.length > 0 && (
        <p className="mt-1 text-xs text-ink2">
          {count(where.data.length, "branch", "branches")} with anything to do.
        </p>
      )}
    </>
  );
}

const [PUBLISHES, EDITS] = ["#1e7466", "#b9841a"];

function Swatch({ colour }: { colour: string | undefined }) {
  return <span aria-hidden="true" className="size-[8px] rounded-xs" style={{ background: colour }} />;
}

const OTHERS = {
  see: "sees",
  retire: "retires",
  remove: "removes",
  move: "moves",
  history: "history of",
  restore: "restores",
};

/** What else can be done there, with how many pages: "sees 12, moves 3". */
export function others(counts: Record<string, number>): string {
  return Object.entries(OTHERS)
    .filter(([action]) => counts[action])
    .map(([action, words]) => `${words} ${counts[action]}`)
    .join(", ");
}
