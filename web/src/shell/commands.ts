// What Ctrl K does besides leading somewhere: each for whoever may do it.
import type { Session } from "../shared/session";
import { type Opened, opening } from "../shared/useOpenHere";

export type Command = {
  key: string;
  name: string;
  note?: string;
  /** Where it leads, and what opens there; here where it leads nowhere. */
  to: string;
  open?: ReturnType<typeof opening>;
  /** What is typed on, where that is all it does. */
  types?: string;
};

type Offered = { session: Session; staged: number; makes: boolean };

export function commandsOf({ session, staged, makes }: Offered): Command[] {
  const { duties, places, standing_in } = session;
  const looks = standing_in?.mode === "look";
  const every: (Command | false)[] = [
    staged > 0 && !looks && does("Review and apply what is staged", "", "review", `${staged} staged`),
    duties.includes("accounts.invite") && { key: "do-take-on", name: "Take somebody on", to: "/assign/new" },
    duties.includes("accounts.invite") &&
      duties.includes("roster.see") &&
      does("Bring in a list of people", "/assign", "bring in a list"),
    duties.includes("roles.define") && does("New role", "/define", "new role"),
    duties.includes("kinds.define") && does("New kind of content", "/define/kinds", "new kind"),
    makes && places.includes("desk") && does("New page", "/desk", "new page"),
    !standing_in &&
      duties.includes("impersonate.start") && {
        key: "do-stand-in",
        name: "Stand in for …",
        note: "type whom",
        to: "",
        types: "stand in for ",
      },
  ];
  return every.filter((one) => one !== false);
}

function does(name: string, to: string, what: Opened, note?: string): Command {
  return { key: `do-${what.replaceAll(" ", "-")}`, name, note, to, open: opening(what) };
}
