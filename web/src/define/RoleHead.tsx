// The head of a board: the role, whom it reaches, and what can be done with it.

import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { Menu, MenuItem } from "../shared/Menu";
import { NameLink, NameMenu } from "../shared/NameMenu";
import { count } from "../shared/time";
import { Button, Tag } from "../shared/ui";
import { type Role, sameCloth } from "../shared/useRoles";
import { BuildsOn } from "./BuildsOn";
import { EditRole } from "./EditRole";
import { NewRole } from "./NewRole";
import { RemoveRole } from "./RemoveRole";

type Doing = "" | "copy" | "build" | "edit" | "remove" | "builds-on";
type HeadProps = {
  role: Role;
  roles: Role[];
  onCopyText: () => void;
  /** Propose what the role said when it came with the site; absent for roles made here. */
  onPutBack?: () => void;
  /** What works on the board as a whole. */
  children: ReactNode;
};

export function RoleHead({ role, roles, onCopyText, onPutBack, children }: HeadProps) {
  const [doing, does] = useState<Doing>("");
  const navigate = useNavigate();
  const own = role.baseline === "";
  const stop = () => does("");
  const alike = sameCloth(role, roles);
  const above = roles.find(({ key }) => key === role.builds_on);
  const beneath = roles.filter(({ builds_on }) => builds_on === role.key);
  return (
    <header>
      <div className="flex items-center gap-3">
        <RoleCloth cloth={role.cloth} size={22} />
        <h1 className="truncate" title={role.name}>
          {role.name}
        </h1>
        {own && <NameMenu of={{ role: role.key }} name={role.name} shown />}
        {!own && <Tag>baseline</Tag>}
        {own && role.holders !== null && (
          <Tag>
            {[count(role.holders, "holder"), role.groups ? count(role.groups, "group") : ""]
              .filter(Boolean)
              .join(", ")}
          </Tag>
        )}
        {alike && <Tag>same cloth as {alike.name}</Tag>}
        <code className="min-w-0 shrink-[99] truncate text-xs text-ink2 max-[1180px]:hidden">{role.key}</code>
        <span className="flex-1" />
        <Button onClick={() => navigate(`/define/compare?roles=${role.key}`)}>Compare</Button>
        {own && <Button onClick={() => does("copy")}>Copy</Button>}
        <Menu trigger={<Button>More</Button>}>
          <MenuItem onSelect={() => does("edit")}>Name, description and cloth</MenuItem>
          {own && <MenuItem onSelect={() => does("build")}>New role building on this</MenuItem>}
          <MenuItem onSelect={() => does("builds-on")}>What it builds on</MenuItem>
          <MenuItem onSelect={onCopyText}>Copy all sentences</MenuItem>
          {onPutBack && <MenuItem onSelect={onPutBack}>Put back as it came</MenuItem>}
          {own && <MenuItem onSelect={() => does("remove")}>Remove</MenuItem>}
        </Menu>
      </div>
      <div className="mt-[7px] flex items-start gap-3">
        <p className="min-w-0 flex-1 pt-[3px] text-ink2">
          {role.description || "No description yet."}
          {above && (
            <>
              {" "}
              Builds on <RoleLink role={above} />.
            </>
          )}
          {beneath.length > 0 && (
            <>
              {" "}
              {beneath.map((other, i) => (
                <span key={other.key}>
                  {i > 0 && ", "}
                  <RoleLink role={other} />
                </span>
              ))}{" "}
              {beneath.length === 1 ? "builds" : "build"} on it.
            </>
          )}
        </p>
        {children}
      </div>
      <NewRole
        open={doing === "copy" || doing === "build"}
        onClose={stop}
        roles={roles}
        from={{ start: doing === "build" ? "builds_on" : "copy_of", role: role.key }}
      />
      <EditRole open={doing === "edit"} onClose={stop} role={role} roles={roles} />
      <RemoveRole open={doing === "remove"} onClose={stop} role={role} roles={roles} />
      <BuildsOn open={doing === "builds-on"} onClose={stop} role={role} roles={roles} />
    </header>
  );
}

function RoleLink({ role }: { role: Role }) {
  return <NameLink of={{ role: role.key }} name={role.name} />;
}
