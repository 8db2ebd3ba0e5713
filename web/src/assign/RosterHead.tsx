// The head of every part of Assign: which one it is, and the others, each at its own address.
import type { ReactNode } from "react";
import { NavLink } from "react-router";
import { useDuty } from "../shared/session";
import { useMayDecide, useRequests } from "./useRequests";

const LOOK = "text-sm whitespace-nowrap hover:text-ink";

type HeadProps = {
  accounts?: number;
  groups?: number;
  /** Above a list beside something open: the parts stand in a row of their own. */
  narrow?: boolean;
  /** What can be done, at the end of the line. */
  children?: ReactNode;
};

export function RosterHead({ accounts, groups, narrow = false, children }: HeadProps) {
  const tabs = <Tabs accounts={accounts} groups={groups} narrow={narrow} />;
  return (
    <div className="mb-2">
      <div className="flex items-baseline gap-4">
        <h1>Roster</h1>
        {!narrow && tabs}
        <span className="flex-1" />
        {children}
      </div>
      {narrow && tabs}
    </div>
  );
}

function Tabs({ accounts, groups, narrow }: Pick<HeadProps, "accounts" | "groups" | "narrow">) {
  const requests = useRequests();
  const open = requests.data?.filter(({ state }) => state === "open").length;
  const mayDecide = useMayDecide();
  const mayDefine = useDuty("roles.define");
  return (
    <nav
      aria-label="Parts of the roster"
      className={`flex min-w-0 flex-wrap items-baseline ${narrow ? "gap-x-2.5" : "gap-x-3.5"}`}
    >
      <Tab to="/assign" name="Accounts" figure={accounts} />
      <Tab to="/assign/groups" name="Groups" figure={groups} />
      {mayDecide && <Tab to="/assign/requests" name="Requests" figure={open} />}
      <Tab to="/assign/reviews" name="Reviews" />
      <Tab to="/assign/handing-out" name="Handing out" />
      <Tab to="/assign/mail" name="Mail" />
      {mayDefine && <Tab to="/assign/arrival" name="On arrival" />}
    </nav>
  );
}

function Tab({ to, name, figure }: { to: string; name: string; figure?: number }) {
  return (
    <NavLink
      to={to}
      end={to === "/assign"}
      className={({ isActive }) => `${LOOK} ${isActive ? "font-semibold text-ink" : "text-ink2"}`}
    >
      {name} {figure !== undefined && <span className="figures">{figure}</span>}
    </NavLink>
  );
}
