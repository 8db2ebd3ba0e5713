// What is told above the board about the cells a choice brought out.
import type { ReactNode } from "react";
import { wordsOf } from "../shared/capability";
import { Button, ErrorNotice } from "../shared/ui";
import type { Catalogue } from "../shared/useRoles";
import type { Answers } from "./patterns";
import { type Board, useLookAt } from "./useBoard";

/** All that is risky about a role: single duties, and what its parts make together. */
export function Risks({ risks }: { risks: Board["risks"] }) {
  return (
    <ul aria-label="Risks" className="my-1 rounded border border-line bg-paper px-3 py-1.5 text-sm">
      {risks.map(({ what, why }) => (
        <li key={what + why} className="py-[2px]">
          <strong>May {what}.</strong> {why}
        </li>
      ))}
    </ul>
  );
}

const LIST = new Intl.ListFormat("en");
const listed = (words: string[]) => LIST.format(words);

/** A section by name: "the media section", of what opens it. */
function placeOf(section: string, catalogue: Catalogue): string {
  return wordsOf(section, catalogue).verb.replace(/^open /, "");
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

function phrase(capability: string, catalogue: Catalogue): string {
  const { verb, thing } = wordsOf(capability, catalogue);
  return `${verb} ${thing}`.trim();
}

type MisfitsProps = {
  sections: Board["sections"];
  catalogue: Catalogue;
  onSet: (answers: Answers) => void;
};

/** Sections of the desk that are open around nothing, or closed around something, with what would mend it. */
export function Misfits({ sections, catalogue, onSet }: MisfitsProps) {
  const idle = sections.filter(({ shut }) => shut.length === 0).map(({ section }) => section);
  const names = (keys: string[]) => capital(listed(keys.map((key) => placeOf(key, catalogue))));
  return (
    <ul
      aria-label="What does not fit"
      className="my-1 rounded border border-line bg-paper px-3 py-1.5 text-sm"
    >
      {idle.length > 0 && (
        <Misfit
          button={idle.length > 1 ? "Close them" : "Close it"}
          onMend={() => onSet(new Map(idle.map((section) => [section, null])))}
        >
          <strong>{names(idle)}</strong> {idle.length > 1 ? "are" : "is"} open, but nothing is given that is
          done in there.
        </Misfit>
      )}
      {sections
        .filter(({ shut }) => shut.length > 0)
        .map(({ section, shut }) => (
          <Misfit key={section} button="Open it" onMend={() => onSet(new Map([[section, "yes"]]))}>
            <strong>{names([section])}</strong> is closed, but this is given for it:{" "}
            {listed(shut.map((capability) => phrase(capability, catalogue)))}.
          </Misfit>
        ))}
    </ul>
  );
}

function Misfit(props: { button: string; onMend: () => void; children: ReactNode }) {
  return (
    <li className="flex items-center gap-3 py-[3px]">
      <span className="min-w-0 flex-1">{props.children}</span>
      <Button onClick={props.onMend}>{props.button}</Button>
    </li>
  );
}

/** Where capabilities that nobody has looked at yet come from, and the end of their being new. */
export function NewNotice({ capabilities }: { capabilities: string[] }) {
  const lookAt = useLookAt();
  return (
    <>
      <ErrorNotice error={lookAt.error} />
      <div className="my-1 flex items-center gap-3 rounded border border-line bg-paper px-3 py-1.5 text-sm">
        <span>These came with an extension or a new kind of content. Nobody was given them.</span>
        <span className="flex-1" />
        <Button disabled={lookAt.isPending} onClick={() => lookAt.mutate(capabilities)}>
          I have looked at them
        </Button>
      </div>
    </>
  );
}
