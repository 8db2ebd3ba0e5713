// Beside the sentences: what was said and is not so, with the smallest changes that make it so; how to say things.
import { useState } from "react";
import { StageSaid } from "../../shared/expectations/StageSaid";
import { Turns } from "../../shared/turning/Turns";
import { Button } from "../../shared/ui";
import type { Line, Lines } from "./lines";

const MOST = 6;

type AsideProps = { text: string; lines: Lines; version: number };

export function SaidAside({ text, lines }: AsideProps) {
  const wrong = text
    .split("\n")
    .map((line, at) => ({ line, number: at + 1, said: lines.of(line) }))
    .filter(
      (one): one is { line: string; number: number; said: Line } =>
        (one.said?.kind === "expectation" || one.said?.kind === "change") && one.said.so === false,
    );
  return (
    <aside className="w-[324px] shrink-0 overflow-y-auto border-l border-line bg-paper px-5 pt-[34px] pb-8">
      <h2>Said and not so</h2>
      {wrong.length === 0 ? (
        <p className="mt-1 text-sm text-ink2">Of the lines in view each that can be asked is so.</p>
      ) : (
        <>
          <p className="mt-1 text-sm text-ink2">
            {wrong.length === 1 ? "One line says" : `${wrong.length} lines say`} what is not. What would make
            it so:
          </p>
          <ul>
            {wrong.slice(0, MOST).map(({ line, number, said }) => (
              <li key={number} className="border-b border-line py-2.5 text-sm">
                <p>
                  <span className="text-ink2">Line {number}. </span>
                  {line.replace(/#.*$/, "").trim()}
                </p>
                {said.kind === "change" ? <StageSaid said={said} /> : <MakeSo said={said} />}
              </li>
            ))}
          </ul>
        </>
      )}
      <h2 className="mt-7">How to say it</h2>
      <dl className="mt-1 text-sm leading-7 [&_dd]:inline [&_dd]:text-ink2 [&_dt]:inline [&_dt]:font-semibold">
        {HOW.map(([word, words]) => (
          <div key={word}>
            <dt>{word}</dt> <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-3 text-xs text-ink2">
        A line that ends with a colon is a heading; what follows # is a note. Ctrl Space shows what could come
        next.
      </p>
    </aside>
  );
}

const HOW: [string, string][] = [
  ["who may", "or may not what"],
  ["who", "a name, holders of a role, members of a group, visitors, nobody but …, everyone but …"],
  ["what", "see, edit, publish …, change the field of …, edit the wording of …"],
  ["where", "a page, anything in …, their own notices in …"],
  ["when", "from a day, until a day"],
];

/** What would turn the first answer against an expectation. */
function MakeSo({ said }: { said: Line }) {
  const [asked, ask] = useState(false);
  const against = said.against;
  if (!against?.account) return null;
  if (!asked) {
    return (
      <Button className="mt-1.5" onClick={() => ask(true)}>
        What would make it so
      </Button>
    );
  }
  const { action, field, type, component, facet } = said.question as Record<string, string | undefined>;
  const question = { account: against.account, action: action ?? "", node: against.node ?? undefined };
  return <Turns question={{ ...question, field, type, component, facet }} />;
}
