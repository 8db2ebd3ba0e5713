// A tree in which branches are chosen: searched by part of a name, moved through by keyboard.
import { useState } from "react";
import { Chip, ErrorNotice, INPUT, Loading } from "../ui";
import { deskSource, type TreeName, type TreeNode } from "./nodes";
import { Tree } from "./Tree";
import { useTree } from "./useTree";

type TreeProps = {
  label: string;
  chosen: string[];
  onChange: (ids: string[]) => void;
  /** One tree alone; without it one can go from one to the other. */
  only?: TreeName;
  height?: number;
};

export function BranchTree({ label, chosen, onChange, only, height = 292 }: TreeProps) {
  const [tree, setTree] = useState<TreeName>(only ?? "content");
  const [words, setWords] = useState("");
  return (
    <div>
      <div className="mb-1 flex items-center gap-2">
        <span className="text-sm font-semibold">{label}</span>
        <span className="flex-1" />
        {!only && (
          <>
            <Chip on={tree === "content"} onClick={() => setTree("content")}>
              Pages
            </Chip>
            <Chip on={tree === "media"} onClick={() => setTree("media")}>
              Media
            </Chip>
          </>
        )}
        <input
          aria-label="Part of a branch’s name"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Part of a name"
          className={`${INPUT} w-[170px]!`}
        />
      </div>
      <div className="flex flex-col overflow-hidden rounded border border-line bg-white" style={{ height }}>
        <Branches
          key={tree}
          name={tree}
          words={words}
          label={label}
          chosen={chosen}
          onToggle={(id) =>
            onChange(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id])
          }
        />
      </div>
    </div>
  );
}

type BranchesProps = {
  name: TreeName;
  words: string;
  label: string;
  chosen: string[];
  onToggle: (id: string) => void;
};

function Branches({ name, words, label, chosen, onToggle }: BranchesProps) {
  const [first] = useState(chosen[0] ?? "");
  const [cursor, setCursor] = useState(first);
  const tree = useTree<TreeNode>(deskSource(name), { words, reveal: first });
  if (tree.error) return <ErrorNotice error={tree.error} again={tree.again} />;
  if (tree.pending) return <Loading what="the tree" />;
  if (tree.rows.length === 0) return <p className="p-3 text-sm text-ink2">No branch is called that.</p>;
  return (
    <Tree
      tree={tree}
      label={label}
      several
      cursor={cursor}
      onGo={({ id }) => setCursor(id)}
      onChoose={({ id }) => {
        setCursor(id);
        onToggle(id);
      }}
      onKey={(event, { id }) => {
        if (event.key === " ") onToggle(id);
        return event.key === " ";
      }}
      height={29}
      indent={18}
      more={({ id }) => ({
        "aria-selected": chosen.includes(id),
        className: `flex items-center gap-1.5 border-b border-linen2 px-2 text-sm ${chosen.includes(id) ? "bg-warm font-semibold" : "hover:bg-linen"}`,
      })}
    >
      {({ node }, title) => (
        <>
          {title(
            <>
              <span
                aria-hidden="true"
                className={`size-[14px] shrink-0 rounded-[3px] border ${chosen.includes(node.id) ? "border-rod bg-rod" : "border-line2 bg-white"}`}
              />
              <span className="min-w-0 flex-1 truncate">{node.title}</span>
            </>,
          )}
          <span className="figures text-xs font-normal text-ink2">{node.nodes}</span>
        </>
      )}
    </Tree>
  );
}
