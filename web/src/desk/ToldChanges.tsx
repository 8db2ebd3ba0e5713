// What differs between two versions of a page, one thing after the other.
import { diffWords } from "diff";
import type { Shapes } from "../api/client";

type Change = Shapes["VersionChangeShape"];

type ToldProps = {
  changes: Change[];
  /** Heads of what was and what is: with them the two stand side by side. */
  beside?: [string, string];
  /** Whether all of it is new: then nothing of it is marked. */
  fresh?: boolean;
};

export function ToldChanges({ changes, fresh = false, beside }: ToldProps) {
  if (beside && changes.length > 0) return <Beside changes={changes} heads={beside} />;
  return changes.map((change, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: two changes may be called the same
    <Told key={i} change={change} fresh={fresh} />
  ));
}

type BesideProps = { changes: Change[]; heads: [string, string] };

function Beside({ changes, heads }: BesideProps) {
  return (
    <table className="w-full table-fixed text-read">
      <thead>
        <tr className="border-b border-line text-left text-xs text-ink2">
          {heads.map((head) => (
            <th key={head} scope="col" className="py-1 pr-4 font-normal">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      {changes.map(({ what, was, now }, i) => {
        const parts = diffWords(was ?? "", now ?? "");
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: two changes may be called the same
          <tbody key={i} className="border-b border-line">
            <tr>
              <th scope="rowgroup" colSpan={2} className="pt-2 text-left text-xs font-semibold text-ink2">
                {what}
              </th>
            </tr>
            <tr className="align-top whitespace-pre-wrap">
              <td className="pr-4 pb-2">
                {was !== null && <Words parts={parts.filter(({ added }) => !added)} />}
              </td>
              <td className="pr-4 pb-2">
                {now !== null && <Words parts={parts.filter(({ removed }) => !removed)} />}
                {was === null && now === null && "changed"}
              </td>
            </tr>
          </tbody>
        );
      })}
    </table>
  );
}

/** One change in one: what went is struck through, what came is marked, word by word. */
function Told({ change: { what, was, now }, fresh }: { change: Change; fresh: boolean }) {
  const parts = diffWords(was ?? "", now ?? "");
  return (
    <div className="border-b border-line py-2">
      <h3 className="text-xs font-semibold text-ink2">{what}</h3>
      <p className="text-read whitespace-pre-wrap">
        {was === null && now === null && "changed"}
        <Words parts={fresh ? parts.map(({ value }) => ({ value })) : parts} />
      </p>
    </div>
  );
}

type Part = { value: string; added?: boolean; removed?: boolean };

function Words({ parts }: { parts: Part[] }) {
  return parts.map(({ value, added, removed }, i) => {
    const key = `${i} ${value}`;
    if (removed)
      return (
        <del key={key} className="bg-[#f6e0dc] text-bar">
          {value}
        </del>
      );
    if (added)
      return (
        <ins key={key} className="bg-[#f1dcae] no-underline">
          {value}
        </ins>
      );
    return <span key={key}>{value}</span>;
  });
}
