// Choosing another role, to see on the board only what counts otherwise there.
import { DropdownMenu } from "radix-ui";
import { RoleCloth } from "../cloth/RoleCloth";
import { Chip } from "../shared/ui";
import type { Role } from "../shared/useRoles";

export function DiffersFrom({ roles, onPick }: { roles: Role[]; onPick: (role: string) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Chip title="Show what counts otherwise in another role">Differs…</Chip>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={6}
          className="z-50 max-h-[60vh] min-w-[220px] overflow-y-auto rounded-md border border-line bg-paper p-1 text-sm shadow-xl"
        >
          {roles.map(({ key, name, cloth }) => (
            <DropdownMenu.Item
              key={key}
              onSelect={() => onPick(key)}
              className="flex items-center gap-2 rounded px-2 py-1.5 outline-none data-highlighted:bg-chosen"
            >
              <RoleCloth cloth={cloth} size={14} />
              {name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
