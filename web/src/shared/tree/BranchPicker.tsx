// Choose branches by typing part of a name; chosen ones stand above as chips.
import { useState } from "react";
import { INPUT } from "../ui";
import { useFound, useTitles } from "./nodes";

const SHOWN = 7;

/** 0 for the very name, 1 for one that begins like it, 2 for one that has it somewhere. */
function nearness(title: string, wanted: string): number {
  const name = title.toLowerCase();
  return name === wanted ? 0 : name.startsWith(wanted) ? 1 : 2;
}

export function BranchPicker({
  id,
  chosen,
  onChange,
}: {
  id: string;
  chosen: string[];
  onChange: (ids: string[]) => void;
}) {
  const [words, setWords] = useState("");
  const names = useTitles(chosen);
  const wanted = words.toLowerCase().trim();
  const [content, media] = [
    useFound("content", words, {}, wanted !== "").data ?? [],
    useFound("media", words, {}, wanted !== "").data ?? [],
  ];
  const titles = new Map([...content, ...media].map(({ id, title }) => [id, title]));
  const found = wanted
    ? [...content, ...media]
        .filter((node) => node.found && !chosen.includes(node.id))
        .sort((a, b) => nearness(a.title, wanted) - nearness(b.title, wanted))
        .slice(0, SHOWN)
    : [];
  return (
    <div>
      {chosen.length > 0 && (
        <ul className="mb-1.5 flex flex-wrap gap-1.5">
          {chosen.map((branch) => (
            <li
              key={branch}
              className="flex items-center gap-1 rounded-full border border-rod bg-chosen pr-1 pl-2.5 text-note"
            >
              {names.get(branch) ?? branch}
              <button
                type="button"
                aria-label={`Leave out ${names.get(branch) ?? branch}`}
                className="rounded-full px-1.5 hover:bg-linen2"
                onClick={() => onChange(chosen.filter((b) => b !== branch))}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      <input
        id={id}
        value={words}
        onChange={(event) => setWords(event.target.value)}
        placeholder="Part of a branch's name"
        autoComplete="off"
        className={INPUT}
      />
      {found.length > 0 && (
        <ul aria-label="Branches found" className="mt-1 overflow-hidden rounded border border-line bg-white">
          {found.map((node) => (
            <li key={node.id}>
              <button
                type="button"
                className="block w-full px-2.5 py-1 text-left text-sm hover:bg-chosen focus-visible:bg-chosen"
                onClick={() => {
                  onChange([...chosen, node.id]);
                  setWords("");
                }}
              >
                {node.title} <span className="text-xs text-ink2">{titles.get(node.parent ?? "")}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
