// Bringing the board down to what has some words in it; the slash leads here.
import type { RefObject } from "react";
import { INPUT } from "../shared/ui";
import { useHotkey } from "../shared/useHotkey";

type Props = { words: string; onWords: (words: string) => void; input: RefObject<HTMLInputElement | null> };

export function WordFilter({ words, onWords, input }: Props) {
  useHotkey({ key: "/" }, () => input.current?.focus());
  return (
    <label className="relative w-[104px]">
      <span className="sr-only">Filter capabilities by words</span>
      <input
        ref={input}
        value={words}
        onChange={(event) => onWords(event.target.value)}
        placeholder="Filter"
        className={`${INPUT} rounded-full! pr-7`}
      />
      <kbd className="pointer-events-none absolute top-[5px] right-2.5 rounded border border-line px-1 text-tiny text-ink2">
        /
      </kbd>
    </label>
  );
}
