// What each may do, a line for each thing that is asked: of a page and its parts, or of the board.
import { Link } from "react-router";
import { Mark, type MarkExtent } from "../cloth/Mark";
import { Empty } from "../shared/ui";
import { useReasonWords } from "../shared/useWords";
import { columnsOf, FIRST } from "./SideHeads";
import { type Side, type SideRow, whomOfSide } from "./sides";

const GROUPS: Record<SideRow["group"], string> = {
  action: "What may be done with the page",
  field: "Its fields",
  part: "Its parts, facet by facet",
  insert: "What may be put in",
  board: "",
};
const SAID: Record<string, string> = { yes: "may", no: "may not", see: "to read only", change: "may change" };

type Props = { data: { sides: Side[]; rows: SideRow[] }; node: string };

export function SideRows({ data: { sides, rows }, node }: Props) {
  if (rows.length === 0) return <Empty title="Nothing differs">Both come to the same answers here.</Empty>;
  return (
    <div className="pb-8">
      {Object.entries(GROUPS).map(([group, title]) => {
        const some = rows.filter((row) => row.group === group);
        return some.length > 0 ? (
          <section key={group} aria-label={title || "Capabilities"}>
            {title && <h2 className="mt-5 mb-1 pl-[22px]">{title}</h2>}
            <ul className={title ? "" : "mt-3"}>
              {some.map((row) => (
                <Line key={row.key} row={row} sides={sides} node={node} />
              ))}
            </ul>
          </section>
        ) : null;
      })}
    </div>
  );
}

function Line({ row, sides, node }: { row: SideRow; sides: Side[]; node: string }) {
  return (
    <li
      data-row={row.key}
      data-differs={row.differs}
      className={`grid items-center border-b border-line py-1.5 text-read ${row.differs ? "bg-[#fbf2df]" : ""}`}
      style={columnsOf(sides, FIRST)}
    >
      <span className="min-w-0 truncate pr-3 pl-[22px]" title={row.name}>
        {row.name}
        {row.differs && <span className="sr-only">, differs</span>}
      </span>
      {row.answers.map((answer, i) => {
        const side = sides[i] as Side;
        return row.group === "board" ? (
          <span key={side.side} className="flex items-center gap-2 px-[18px]">
            <Mark extent={markOf(answer.says)} />
            <span className="text-sm text-ink2">{answer.says || "nothing"}</span>
          </span>
        ) : (
          <Answer key={side.side} answer={answer} why={whyOf(side.side, row, node)} />
        );
      })}
    </li>
  );
}

function Answer({ answer, why }: { answer: SideRow["answers"][number]; why: string | null }) {
  const words = useReasonWords();
  const closed = answer.says === "no";
  return (
    <span className={`min-w-0 truncate px-[18px] ${closed ? "text-ink2" : ""}`}>
      {SAID[answer.says] ?? answer.says}
      {answer.reason && `: ${words(answer.reason)}`}
      {answer.reason && why && (
        <Link to={why} className="ml-2 text-sm underline">
          Why
        </Link>
      )}
    </span>
  );
}

/** Why is told of accounts and roles as they are now. */
function whyOf(side: string, row: SideRow, node: string): string | null {
  const { whom, staged, at } = whomOfSide(side);
  if (staged || at) return null;
  if ("account" in whom)
    return whom.account ? `/why?${new URLSearchParams({ account: whom.account, node, ...row.asked })}` : null;
  const [held, ...others] = whom.roles;
  if (!held || others.length > 0 || whom.own || whom.groups.length > 0) return null;
  return `/why?${new URLSearchParams({ role: held.role, node, ...row.asked })}`;
}

function markOf(says: string): MarkExtent {
  if (says === "yes") return "all";
  return says === "" ? "nothing" : (says as MarkExtent);
}
