// A small catalogue and roles of the harbour, as the server would tell them.

import type { Cell } from "../src/define/sentence";
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
} as unknown as Catalogue;

export function role(said: Partial<Role> = {}): Role {
  return { key: "tenant-editor", name: "Tenant editor", baseline: "", builds_on: null, ...said } as Role;
}

export function cell(capability: string, said: Partial<Cell> = {}): Cell {
  return {
    capability,
    said: null,
    staged: false,
    inherited: null,
    inherited_from: null,
    baseline: null,
    baseline_from: null,
    ...said,
  };
}
