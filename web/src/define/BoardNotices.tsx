// What is told above the board about the cells a choice brought out.
import { nameOf, wordsOf } from "../shared/capability";
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

function phrase(capability: string, catalogue: Catalogue): string {
  const { verb, thing } = wordsOf(capability, catalogue);
  return `${verb} ${thing}`.trim();
}

type MisfitsProps = {
  sections: Board["sections"];
  catalogue: Catalogue;
  onSet: (answers: Answers) => void;
};

/** Sections of the desk that are open around nothing, or closed around something, with what would mend each. */
export function Misfits({ sections, catalogue, onSet }: MisfitsProps) {
  return (
    <ul
      aria-label="What does not fit"
      className="my-1 rounded border border-line bg-paper px-3 py-1.5 text-sm"
    >
      {sections.map(({ section, shut }) => {
        const name = nameOf(section, catalogue);
        return (
          <li key={section} className="flex items-center gap-3 py-[3px]">
            <span className="min-w-0 flex-1">
              {shut.length === 0 ? (
                <>
                  <strong>{name}</strong> is open, but nothing is given that is done in there.
                </>
              ) : (
                <>
                  <strong>{name}</strong> is closed, but this is given for it:{" "}
                  {shut.map((capability) => phrase(capability, catalogue)).join(", ")}.
                </>
              )}
            </span>
            <Button onClick={() => onSet(new Map([[section, shut.length ? "yes" : null]]))}>
              {shut.length ? "Open it" : "Close it"}
            </Button>
          </li>
        );
      })}
    </ul>
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
