// Whom the question is about: a role, or an account found by name.
import { RoleCloth } from "../cloth/RoleCloth";
import { WhomPicker as Picker } from "../shared/pickers";
import { useAccount } from "../shared/useAccounts";
import { useRoles } from "../shared/useRoles";
import type { Whom } from "./useLimits";

export function WhomPicker({ whom, onPick }: { whom: Whom; onPick: (whom: Whom) => void }) {
  const account = useAccount(whom.account ?? "").data?.account;
  const role = (useRoles().data ?? []).find((one) => one.key === whom.role);
  return (
    <Picker
      groups={false}
      onPick={(picked) => {
        const [kind, id] = picked.split(" ");
        onPick(kind === "role" ? { role: id } : { account: id });
      }}
      trigger={
        <button
          type="button"
          className="inline-flex items-center gap-2 rounded-full border border-rod bg-chosen px-3 py-[3px] text-base font-semibold"
        >
          {role && <RoleCloth cloth={role.cloth} size={15} />}
          {role?.name ?? account?.name ?? "…"}
          <span aria-hidden="true">▾</span>
        </button>
      }
    />
  );
}
