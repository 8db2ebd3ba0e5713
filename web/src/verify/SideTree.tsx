// The tree with what each may do at every node: see, edit, publish, remove.

import { Button, Empty } from "../shared/ui";
import { useActions } from "../shared/useWords";
import { columnsOf, FIRST } from "./SideHeads";
import type { SideNode, useSidesOfTree } from "./sides";

type Props = { tree: ReturnType<typeof useSidesOfTree>; onOpen: (node: string) => void };

export function SideTree({ tree, onOpen }: Props) {
  const pages = tree.data?.pages ?? [];
  const nodes = pages.flatMap((page) => page.nodes);
  const asked = pages[0]?.actions ?? [];
  const names = new Map(useActions().map(({ key, name }) => [key, name]));
  if (nodes.length === 0) return <Empty title="Nothing differs">They may do the same everywhere.</Empty>;
  return (
    <div className="pb-8">
      <ul>
        {nodes.map((node) => (
          <Line key={node.id} node={node} asked={asked.map((key) => names.get(key) ?? key)} onOpen={onOpen} />
        ))}
      </ul>
      {tree.hasNextPage && (
        <Button
          className="mt-3 ml-[22px]"
          onClick={() => tree.fetchNextPage()}
          disabled={tree.isFetchingNextPage}
        >
          More
        </Button>
      )}
    </div>
  );
}

type LineProps = { node: SideNode; asked: string[]; onOpen: (node: string) => void };

function Line({ node, asked, onOpen }: LineProps) {
  return (
    <li
      data-node={node.id}
      data-differs={node.differs}
      className={`grid items-center border-b border-line py-1 text-read ${node.differs ? "bg-[#fbf2df]" : ""}`}
      style={columnsOf(node.answers, FIRST)}
    >
      <button
        type="button"
        onClick={() => onOpen(node.id)}
        title={node.title}
        className="truncate pr-3 text-left hover:underline"
        style={{ paddingLeft: 22 + Math.min(node.depth, 8) * 13 }}
      >
        {node.title}
        {node.differs && <span className="sr-only">, differs</span>}
      </button>
      {node.answers.map((each, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the sides keep their order
        <span key={i} className="flex flex-wrap gap-x-3 px-[18px] text-sm">
          {each[0]?.says === "no" ? (
            <span className="text-ink2">not shown</span>
          ) : (
            asked.map((name, j) => (
              <span
                key={name}
                className={each[j]?.says === "yes" ? "" : "text-ink2 line-through decoration-line2"}
              >
                {name}
                {each[j]?.says === "no" && <span className="sr-only"> not</span>}
              </span>
            ))
          )}
        </span>
      ))}
    </li>
  );
}
