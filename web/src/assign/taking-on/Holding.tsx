// What they are given: groups, and roles with where and when each holds.
import { useState } from "react";
import { useController, useFieldArray, useFormContext } from "react-hook-form";
import { RoleName } from "../../cloth/RoleCloth";
import { GroupPicker, RolePicker } from "../../shared/pickers";
import { Covers, OnlyFor, Where } from "../../shared/scope/ScopeEditor";
import { scopeWords } from "../../shared/scope/scope";
import { useScopeNames } from "../../shared/scope/useScopeNames";
import { day } from "../../shared/time";
import { Button, Chip } from "../../shared/ui";
import { useGroups } from "../../shared/useAccounts";
import { useRoleMap } from "../../shared/useRoles";
import { When } from "../When";
import type { Asked } from "./useTakeOn";

export function Groups() {
  const { field } = useController<Asked, "groups">({ name: "groups" });
  const names = new Map(useGroups().data?.map(({ key, name }) => [key, name]));
  return (
    <fieldset className="mt-4">
      <legend className="mb-1.5 text-sm font-semibold">Groups</legend>
      <div className="flex flex-wrap gap-1.5">
        {field.value.map((key) => (
          <Chip
            key={key}
            on
            aria-label={`Not in ${names.get(key) ?? key}`}
            onClick={() => field.onChange(field.value.filter((one) => one !== key))}
          >
            {names.get(key) ?? key}
            <span aria-hidden="true">×</span>
          </Chip>
        ))}
        <GroupPicker
          but={field.value}
          onPick={(key) => key && field.onChange([...field.value, key])}
          trigger={<Chip>+ group</Chip>}
        />
      </div>
    </fieldset>
  );
}

export function Roles() {
  const { control } = useFormContext<Asked>();
  const { fields, append, remove } = useFieldArray({ control, name: "roles" });
  const [opened, open] = useState<string | null>(null);
  return (
    <fieldset className="mt-4">
      <legend className="mb-1.5 text-sm font-semibold">Roles</legend>
      <ul>
        {fields.map(({ id }, place) => (
          <Role
            key={id}
            place={place}
            open={opened === id}
            onOpen={() => open(opened === id ? null : id)}
            onRemove={() => remove(place)}
          />
        ))}
      </ul>
      <RolePicker
        onPick={(role) => role && append({ role, scope: {}, starts: null, ends: null })}
        trigger={<Chip>+ role</Chip>}
      />
    </fieldset>
  );
}

type RoleProps = { place: number; open: boolean; onOpen: () => void; onRemove: () => void };

function Role({ place, open, onOpen, onRemove }: RoleProps) {
  const { field } = useController<Asked, `roles.${number}`>({ name: `roles.${place}` });
  const { formState } = useFormContext<Asked>();
  const held = field.value;
  const role = useRoleMap().get(held.role);
  const name = role?.name ?? held.role;
  const words = scopeWords(held.scope, useScopeNames(held.scope.branches ?? []));
  const wrong = formState.errors.roles?.[place];
  return (
    <li className="mb-1.5 rounded border border-line bg-paper px-3 py-2">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1">
          <span className="text-read font-semibold">{role ? <RoleName role={role} /> : held.role}</span>
          <span className="block text-xs text-ink2">
            {words}
            {held.starts ? `, from ${day(held.starts)}` : ""}
            {held.ends ? `, until ${day(held.ends)}` : ""}
          </span>
        </span>
        <Button aria-expanded={open} onClick={onOpen} aria-label={`Where and when ${name} holds`}>
          Where and when
        </Button>
        <button
          type="button"
          aria-label={`Not ${name}`}
          onClick={onRemove}
          className="size-7 shrink-0 rounded text-ink2 hover:bg-linen2"
        >
          ×
        </button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-xs text-bar">
          {wrong.ends?.message ?? wrong.role?.message ?? "This cannot be given so."}
        </p>
      )}
      {open && (
        <div className="mt-3 border-t border-line pt-3">
          <Where scope={held.scope} onChange={(scope) => field.onChange({ ...held, scope })} />
          <Covers scope={held.scope} />
          <div className="mt-3 grid grid-cols-2 gap-5">
            <When
              starts={held.starts}
              ends={held.ends}
              onStarts={(starts) => field.onChange({ ...held, starts })}
              onEnds={(ends) => field.onChange({ ...held, ends })}
            />
            <OnlyFor scope={held.scope} onChange={(scope) => field.onChange({ ...held, scope })} />
          </div>
        </div>
      )}
    </li>
  );
}
