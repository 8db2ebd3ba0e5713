// The parts of Assign, each at its own address.
import { NavLink } from "react-router";
import { useDuty } from "../shared/session";
import { useMayDecide, useRequests } from "./useRequests";

const LOOK = "text-sm whitespace-nowrap hover:text-ink";

export function Tabs({ accounts, groups }: { accounts?: number; groups?: number }) {
  const requests = useRequests();
  const open = requests.data?.filter(({ state }) => state === "open").length;
  const mayDecide = useMayDecide();
  const mayDefine = useDuty("roles.define");
  return (
    <nav aria-label="Parts of the roster" className="flex min-w-0 flex-wrap items-baseline gap-x-3.5">
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
