// The page itself as each of them has it, scrolled together.
import { useReasonWords } from "../shared/useWords";
import { columnsOf } from "./SideHeads";
import type { Side, SideRow } from "./sides";

type Props = { data: { title: string | null; sides: Side[]; rows: SideRow[] } };

export function SidePages({ data: { title, sides, rows } }: Props) {
  const words = useReasonWords();
  const actions = rows.filter(({ group }) => group === "action");
  return (
    <div className="grid pb-8" style={columnsOf(sides)}>
      {sides.map(({ side, name, html }, i) => (
        <div key={side} className="min-w-0 border-l border-line px-[22px] py-3 first:border-l-0">
          <ul aria-label={`What ${name} may do`} className="mb-3 flex flex-wrap gap-1.5">
            {actions.map((row) => {
              const answer = row.answers[i];
              const may = answer?.says === "yes";
              return (
                <li
                  key={row.key}
                  className={`rounded-full border px-2.5 py-[1px] text-note ${may ? "border-ink bg-linen2 font-medium" : "border-dashed border-line2 text-ink2"} ${row.differs ? "shadow-[0_0_0_3px_#f0d9a5]" : ""}`}
                >
                  {row.name.replace(/ this$/, "")}
                  {!may && answer && `: ${words(answer.reason)}`}
                </li>
              );
            })}
          </ul>
          {html === null ? (
            <p className="rounded border border-dashed border-line2 p-6 text-center text-ink2">
              Not there for them.
            </p>
          ) : (
            <iframe
              title={`${title ?? "The page"}, as ${name} has it`}
              sandbox="allow-same-origin"
              srcDoc={html}
              onLoad={(event) => grow(event.currentTarget)}
              className="block h-[60vh] w-full rounded border border-line bg-white"
            />
          )}
        </div>
      ))}
    </div>
  );
}

/** As high as what is in it: the columns scroll together, and nothing scrolls within. */
function grow(frame: HTMLIFrameElement) {
  const height = frame.contentDocument?.documentElement.scrollHeight;
  if (height) frame.style.height = `${height + 2}px`;
}
