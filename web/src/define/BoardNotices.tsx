// What is told above the board about the cells a choice brought out.
import { Button, ErrorNotice } from "../shared/ui";
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
