// What is expected of a cell: the expectations that rest on it with how they stand, and one more of what it says.
import { useState } from "react";
import type { Shapes } from "../api/client";
import { Ring } from "../cloth/Ring";
import { useTouched } from "../shared/changes/changeSet";
import { type About, NewExpectation } from "../shared/expectations/NewExpectation";
import { useDuty } from "../shared/session";
import { TextButton, TextLink } from "../shared/TextLink";
import type { Catalogue, Role } from "../shared/useRoles";
import { Part } from "./Part";
import { type Cell, effective } from "./sentence";
import { useResting } from "./useBoard";

type Resting = Shapes["RestingShape"];

export function Expected({ role, cell, catalogue }: { role: Role; cell: Cell; catalogue: Catalogue }) {
  const keeps = useDuty("expectations.keep");
  const reads = useDuty("impersonate.start") || keeps;
  const resting = useResting(role.key, cell.capability, reads);
  if (!reads) return null;
  return (
    <Part title="Expectations that touch this">
      {resting.error && <p>They could not be asked for: {resting.error.message}</p>}
      {resting.isPending && <p>Looking for them…</p>}
      {resting.data && <Stand resting={resting.data} />}
      <Expect role={role} cell={cell} catalogue={catalogue} />
    </Part>
  );
}

function Stand({ resting }: { resting: Resting }) {
  const touched = useTouched();
  const breaks = new Set(touched.isFetching ? [] : touched.data?.breaks);
  if (resting.expectations === 0) return <p>Nothing is expected here yet.</p>;
  const { expectations, holding, shown } = resting;
  const words = [
    holding > 0 && `${holding} ${holding === 1 ? "holds" : "hold"}`,
    holding < expectations &&
      `${expectations - holding} ${expectations - holding === 1 ? "breaks" : "break"}`,
  ];
  return (
    <>
      <p className="figures">{words.filter(Boolean).join(", ")}</p>
      <ul>
        {shown.map(({ id, sentence, holds }) => (
          <li key={id} className="flex items-start gap-1.5 py-[2px]">
            <span className="shrink-0 pt-[1px]">
              <Ring holds={holds} />
            </span>
            <span className={holds && !breaks.has(sentence) ? "" : "text-bar"}>
              {sentence}
              {holds && breaks.has(sentence) && <strong> would break</strong>}
            </span>
          </li>
        ))}
      </ul>
      {expectations > shown.length && (
        <p>
          <TextLink to="/verify">and {expectations - shown.length} more</TextLink>
        </p>
      )}
    </>
  );
}

/** To hold on to what the cell says: an expectation that tells when anything breaks it. */
function Expect({ role, cell, catalogue }: { role: Role; cell: Cell; catalogue: Catalogue }) {
  const [open, setOpen] = useState(false);
  const may = useDuty("expectations.keep");
  const about = aboutOf(role, cell, catalogue);
  if (!about || !may) return null;
  return (
    <p className="mt-1">
      <TextButton onClick={() => setOpen(true)}>Expect it to stay so</TextButton>
      <NewExpectation open={open} onClose={() => setOpen(false)} about={about} />
    </p>
  );
}

/** What holders of the role may or may not do by the cell; null for what is given for some pages only, and duties. */
function aboutOf(role: Role, cell: Cell, catalogue: Catalogue): About | null {
  const [key, verb = ""] = cell.capability.split(".");
  const type = catalogue.types.find((one) => one.key === key);
  const says = effective(cell).says;
  if (!type || role.baseline === "signed-in" || verb === "create" || says === "own" || says === "team")
    return null;
  const action = { "see-draft": "see", "edit-live": "edit" }[verb] ?? verb;
  const who = role.baseline ? "visitor" : `role ${role.key}`;
  return { who, expect: says === "all" ? "allow" : "deny", action, type };
}
