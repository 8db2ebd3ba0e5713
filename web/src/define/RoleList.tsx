// The roles in the administrator's order, each with its cloth and how many hold it.
import { arrayMove } from "@dnd-kit/sortable";
import { memo, useLayoutEffect, useMemo, useRef } from "react";
import { Link } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { Sortable, SortHandle, useSorted } from "../shared/Sortable";
import { TextLink } from "../shared/TextLink";
import { count, day } from "../shared/time";
import { Button } from "../shared/ui";
import { useOpenHere } from "../shared/useOpenHere";
import { type Role, useOrderRoles } from "../shared/useRoles";
import { NewRole } from "./NewRole";

/** Drawn anew only for other roles: hundreds of lines would hold up whoever goes through a board. */
export const RoleList = memo(function RoleList({ roles, chosen }: { roles: Role[]; chosen: string }) {
  const [making, make] = useOpenHere("new role");
  const order = useOrderRoles();
  const names = useMemo(() => new Map(roles.map((role) => [role.key, role.name])), [roles]);
  const keys = useMemo(() => roles.map((role) => role.key), [roles]);
  const list = useRef<HTMLElement>(null);
  const present = keys.includes(chosen);
  useLayoutEffect(() => {
    const frame = list.current;
    if (!frame || !present) return;
    const reveal = () => scrollTo(frame, `a[href="/define/${chosen}"]`);
    const resized = new ResizeObserver(reveal); // the tray below comes and goes
    resized.observe(frame);
    reveal();
    return () => resized.disconnect();
  }, [chosen, present]);

  return (
    <nav
      ref={list}
      aria-label="Roles"
      className="w-[236px] shrink-0 max-[1180px]:w-[198px] overflow-y-auto border-r border-line bg-linen2 pt-[30px] pb-6"
    >
      <div className="mb-2 flex items-center justify-between px-[15px] pl-[18px]">
        <h2 className="text-lead">Roles</h2>
        <Button onClick={() => make(true)}>New role</Button>
      </div>
      <Sortable
        ids={keys}
        what="the role"
        nameOf={(key) => names.get(key) ?? key}
        onMove={(from, to) => order.mutate(arrayMove(keys, from, to))}
      >
        <ul>
          {roles.map((role) => (
            <RoleLine key={role.key} role={role} chosen={role.key === chosen} names={names} />
          ))}
        </ul>
      </Sortable>
      <p className="mt-3 px-[18px] text-sm">
        <TextLink to="/define/catalogue">Catalogue: extensions, markup sets</TextLink>
      </p>
      <p className="mt-2 px-[18px] text-xs text-ink2">
        Keyholders are on no board: they may do everything, always.
      </p>
      <NewRole open={making} onClose={() => make(false)} roles={roles} />
    </nav>
  );
});

/** Scroll the frame alone: to scroll the page too would move the place where Tab goes on. */
function scrollTo(frame: HTMLElement, selector: string) {
  const line = frame.querySelector(selector)?.getBoundingClientRect();
  const { top, bottom, height } = frame.getBoundingClientRect();
  if (line && (line.top < top || line.bottom > bottom)) {
    frame.scrollTop += line.top - top - (height - line.height) / 2;
  }
}

type LineProps = { role: Role; chosen: boolean; names: Map<string, string> };

function RoleLine({ role, chosen, names }: LineProps) {
  const { item, handle, dragged } = useSorted(role.key);
  return (
    <li {...item} className={`group relative ${dragged ? "z-10 shadow-lg" : ""}`}>
      <Link
        to={`/define/${role.key}`}
        aria-current={chosen ? "page" : undefined}
        draggable={false}
        className={`flex h-[48.4px] items-center gap-[10px] border-l-4 pr-6 pl-[17px] -outline-offset-2 ${
          chosen ? "border-brass bg-paper" : "border-transparent bg-linen2 hover:bg-linen"
        }`}
      >
        <RoleCloth cloth={role.cloth} size={18} />
        <span className="min-w-0">
          <span className="block truncate text-read leading-[1.25] font-semibold">{role.name}</span>
          <span className="block truncate text-xs text-ink2">{note(role, names)}</span>
        </span>
      </Link>
      <SortHandle
        name={role.name}
        {...handle}
        className="absolute top-[13px] right-1 text-transparent group-hover:text-ink2 focus-visible:text-ink2"
      />
    </li>
  );
}

function note(role: Role, names: Map<string, string>): string {
  const { holders, groups, ends, builds_on } = role;
  if (role.baseline === "everyone") return "baseline · visitors too";
  if (role.baseline)
    return ["baseline", holders !== null && count(holders, "account")].filter(Boolean).join(" · ");
  if (builds_on)
    return [`builds on ${names.get(builds_on)}`, holders].filter((part) => part !== null).join(" · ");
  return [
    holders !== null && count(holders, "holder"),
    groups && count(groups, "group"),
    ends && `until ${day(ends)}`,
  ]
    .filter(Boolean)
    .join(" · ");
}
