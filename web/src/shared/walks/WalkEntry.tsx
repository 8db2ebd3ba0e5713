// One thing to try: what should come of it, what came of it the last time, and where to try it.
import type { ReactNode } from "react";
import { OpenRing, Ring } from "../../cloth/Ring";
import { when } from "../time";
import type { WalkItem } from "./useWalks";

export function WalkEntry({ item, children }: { item: WalkItem; children?: ReactNode }) {
  const { state, expect, words } = item;
  return (
    <li data-item={item.key} data-state={state} className="flex gap-2.5 border-b border-line py-2">
      <span className="mt-[1px] shrink-0">
        {state === "open" ? <OpenRing /> : <Ring holds={state === "proved"} />}
      </span>
      <span className="min-w-0 flex-1">
        <span className="block leading-snug">
          {expect === "allow" ? capital(words) : `Must not ${words}`}
        </span>
        <span className={`block text-xs ${state === "otherwise" ? "text-bar" : "text-ink2"}`}>
          {outcome(item)}
        </span>
        {children}
      </span>
    </li>
  );
}

/** What came of it. */
function outcome({ state, expect, tick }: WalkItem): string {
  if (!tick) return "not tried yet";
  const where = tick.page ? `, ${tick.page.title}` : "";
  const by = `${where}, by ${tick.by} ${when(tick.at)}`;
  if (state === "otherwise") return `${expect === "allow" ? "it was refused" : "it could be done"}${by}`;
  return `${expect === "allow" ? "done" : "refused as it should be"}${by}`;
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}
