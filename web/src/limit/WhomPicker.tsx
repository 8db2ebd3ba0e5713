// Whom the question is about: a role, or an account found by name.
import { Popover } from "radix-ui";
import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { INPUT } from "../shared/ui";
import { useAccount, useRoster } from "../shared/useAccounts";
import { useRoles } from "../shared/useRoles";
import type { Whom } from "./useLimits";

export function WhomPicker({ whom, onPick }: { whom: Whom; onPick: (whom: Whom) => void }) {
  const roles = useRoles().data ?? [];
  const account = useAccount(whom.account ?? "").data?.account;
  const role = roles.find((r) => r.key === whom.role);
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const people =
    useRoster({ search: words, role: "", group: "", state: "active" }).data?.pages[0]?.results ?? [];

  function pick(next: Whom) {
    setOpen(false);
    setWords("");
    onPick(next);
  }

  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="inline-flex items-center gap-2 rounded-full border border-rod bg-chosen px-3 py-[3px] text-base font-semibold">
        {role && <RoleCloth cloth={role.cloth} size={15} />}
        {role?.name ?? account?.name ?? "…"}
        <span aria-hidden="true">▾</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          aria-label="A role or an account"
          className="z-50 flex max-h-[440px] w-[300px] flex-col overflow-hidden rounded-md border border-line bg-paper text-sm shadow-xl"
        >
          <div className="border-b border-line p-2">
            <input
              aria-label="Name of a role or an account"
              value={words}
              onChange={(event) => setWords(event.target.value)}
              placeholder="A role, or an account by name"
              className={INPUT}
            />
          </div>
          <ul className="overflow-y-auto p-1">
            {roles
              .filter((r) => r.name.toLowerCase().includes(words.toLowerCase()))
              .map((r) => (
                <li key={r.key}>
                  <button
                    type="button"
                    onClick={() => pick({ role: r.key })}
                    className="flex w-full items-center gap-2 rounded px-2 py-1 text-left hover:bg-chosen"
                  >
                    <RoleCloth cloth={r.cloth} size={14} />
                    {r.name}
                  </button>
                </li>
              ))}
            {words &&
              people.slice(0, 8).map((person) => (
                <li key={person.id}>
                  <button
                    type="button"
                    onClick={() => pick({ account: person.id })}
                    className="w-full rounded px-2 py-1 text-left hover:bg-chosen"
                  >
                    {person.name} <span className="text-xs text-ink2">{person.email}</span>
                  </button>
                </li>
              ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
