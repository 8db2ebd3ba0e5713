// A small catalogue and roles of the harbour, as the server would tell them.

import type { Cell, Outcome } from "../src/define/sentence";
import type { Catalogue, Role } from "../src/shared/useRoles";

const type = (key: string, name: string, plural: string, tree = "content") => ({ key, name, plural, tree });
const verb = (key: string, phrase = key) => ({
  key,
  name: key.charAt(0).toUpperCase() + key.slice(1),
  phrase,
});
const duty = (key: string, name: string, phrase: string, area = "Duties") => ({ key, name, phrase, area });

export const CATALOGUE = {
  types: [
    type("event", "Event", "events"),
    type("berth", "Berth page", "berth pages"),
    type("picture", "Picture", "pictures", "media"),
  ],
  verbs: [verb("see"), verb("create"), verb("edit"), verb("publish"), verb("remove")],
  duties: [
    duty("desk.open", "Open the desk", "open the desk"),
    duty("locks.open", "Open locks", "open locks"),
    duty("roster.see", "See the roster", "see the roster"),
    duty("ledger.read", "Read the ledger", "read the ledger"),
    duty("limits.set", "Set limits", "set limits"),
    duty("roles.define", "Define roles", "define roles"),
    duty("markup.plain", "Plain", "write plain text", "Markup sets"),
  ],
  sentences: {
    nothing: ["{who} may ", "not", " {what} by this role."],
    withheld: ["{who} are ", "not given", " “{what}” by this role."],
    barred: ["{who} may ", "never", " {what}, whatever else they hold."],
    yes: ["{who} may ", "{what}", "."],
    create: ["{who} may {verb} ", "{things}", "."],
    own: ["{who} may {verb} ", "{things} they wrote themselves", "."],
    team: ["{who} may {verb} ", "{things} written by anyone in their team", "."],
    all: ["{who} may {verb} ", "all {things}", "."],
  },
} as unknown as Catalogue;

export function role(said: Partial<Role> = {}): Role {
  const subject = `Holders of ${said.name ?? "Tenant editor"}`;
  return {
    key: "tenant-editor",
    name: "Tenant editor",
    baseline: "",
    builds_on: null,
    subject,
    ...said,
  } as Role;
}

const GIVEN = ["own", "team", "all", "yes"];

type Flowing = { says: string; source: "built-on" | "baseline" };

function outcome(capability: string, says: string | null, source: Outcome["source"]): Outcome {
  const given = GIVEN.includes(says ?? "");
  const form = says === null ? "nothing" : given && capability.endsWith(".create") ? "create" : says;
  return { says, given, source, by: source === "own" ? "tenant-editor" : "other", form };
}

/** A cell that says a word; what `flows` in counts where it says nothing, as the server tells with it. */
export function cell(capability: string, said: string | null = null, flows?: Flowing): Cell {
  const words = CATALOGUE.duties.some(({ key }) => key === capability) ? ["yes"] : ["own", "team", "all"];
  const unsaid = outcome(capability, flows?.says ?? null, flows?.source ?? "own");
  const outcomes = [...words, "withheld", "barred"].map((word) => [word, outcome(capability, word, "own")]);
  return {
    capability,
    said,
    staged: false,
    inherited: null,
    inherited_from: null,
    baseline: null,
    baseline_from: null,
    outcomes: { "": unsaid, ...Object.fromEntries(outcomes) },
  };
}
