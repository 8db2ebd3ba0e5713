// Whom the question is about: a role or several, a group, a visitor, or an account found by name.
import { RoleCloth } from "../cloth/RoleCloth";
import { WhomPicker as Picker, RolePicker } from "../shared/pickers";
import { useAccount, useGroups } from "../shared/useAccounts";
import { useRoleMap } from "../shared/useRoles";
import type { Whom } from "./useLimits";

const VISITOR = "visitor ";
const PILL =
  "inline-flex items-center gap-2 rounded-full border border-rod bg-chosen px-3 py-[3px] text-base font-semibold";

export function WhomPicker({ whom, onPick }: { whom: Whom; onPick: (whom: Whom) => void }) {
  const roles = useRoleMap();
  const name = useWhomName(whom);
  const held = whom.roles ?? [];
  const cloth = roles.get(held[0] ?? "")?.cloth;
  return (
    <>
      <Picker
        first={{ key: VISITOR, name: "a visitor", note: "Nobody signed in" }}
        onPick={(picked) => {
          const [kind, id = ""] = picked.split(" ");
          if (kind === "visitor") onPick({ visitor: true });
          else onPick(kind === "role" ? { roles: [id] } : kind === "group" ? { group: id } : { account: id });
        }}
        trigger={
          <button type="button" className={PILL}>
            {cloth && <RoleCloth cloth={cloth} size={15} />}
            {name}
            <span aria-hidden="true">▾</span>
          </button>
        }
      />
      {held.length > 0 && (
        <RolePicker
          onPick={(key) => onPick({ roles: [...held.filter((one) => one !== key), key] })}
          trigger={
            <button
              type="button"
              aria-label="Add a role to them"
              className="rounded-full border border-line2 bg-paper px-2.5 py-[3px] text-sm font-semibold"
            >
              + role
            </button>
          }
        />
      )}
    </>
  );
}

/** Whom the tree is about, in words. */
export function useWhomName(whom: Whom): string {
  const account = useAccount(whom.account ?? "").data?.account;
  const roles = useRoleMap();
  const groups = useGroups().data ?? [];
  if (whom.visitor) return "a visitor";
  if (whom.group) return groups.find(({ key }) => key === whom.group)?.name ?? "…";
  if (whom.account) return account?.name ?? "…";
  return (whom.roles ?? []).map((key) => roles.get(key)?.name ?? key).join(" and ") || "…";
}
