// What differs between two versions of a page, one thing after the other.
import { diffWords } from "diff";
import type { Shapes } from "../api/client";

type Change = Shapes["VersionChangeShape"];

type ToldProps = {
  changes: Change[];
  /** Whether all of it is new: then nothing of it is marked. */
  fresh?: boolean;
};

export function ToldChanges({ changes, fresh = false }: ToldProps) {
  return changes.map((change, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: two changes may be called the same
    <Told key={i} change={change} fresh={fresh} />
  ));
}

/** One change: what went is struck through, what came is marked, word by word. */
function Told({ change: { what, was, now }, fresh }: { change: Change; fresh: boolean }) {
  return (
    <div className="border-b border-line py-2">
      <h3 className="text-xs font-semibold text-ink2">{what}</h3>
      <p className="text-read whitespace-pre-wrap">
        {was === null && now === null && "changed"}
        {diffWords(was ?? "", now ?? "").map((part, i) => {
          const key = `${i} ${part.value}`;
          if (part.removed)
            return (
              <del key={key} className="bg-[#f6e0dc] text-bar">
                {part.value}
              </del>
            );
          if (part.added && !fresh)
            return (
              <ins key={key} className="bg-[#f1dcae] no-underline">
                {part.value}
              </ins>
            );
          return <span key={key}>{part.value}</span>;
        })}
      </p>
    </div>
  );
}
