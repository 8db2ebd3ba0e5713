// What the picker is used for: an account, a group, a role, a capability.
import { useQuery } from "@tanstack/react-query";
import { type ReactElement, useState } from "react";
import { answer, api } from "../api/client";
import { capabilitiesOf, headOf, wordsOf } from "./capability";
import { keys } from "./keys";
import { type Choice, matches, Picker } from "./Picker";
import { useDuty } from "./session";
import { useGroups } from "./useAccounts";
import { type Role, useCatalogue, useRoles } from "./useRoles";
import { useSettled } from "./useSettled";

type Field = {
  value?: string;
  onPick: (key: string) => void;
  id?: string;
  describedBy?: string;
  none?: string;
  trigger?: ReactElement;
  disabled?: boolean;
};

export function roleChoices(roles: Role[]): Choice[] {
  return roles
    .filter(({ baseline }) => baseline === "")
    .map(({ key, name, cloth, description }) => ({ key, name, cloth, note: description }));
}

export function RolePicker(field: Field) {
  return <Picker what="role" choices={roleChoices(useRoles().data ?? [])} {...field} />;
}

/** `but` leaves some groups out, such as those somebody is in already. */
export function GroupPicker({ but = [], ...field }: Field & { but?: string[] }) {
  const groups = useGroups().data ?? [];
  const names = new Map(groups.map(({ key, name }) => [key, name]));
  const choices = groups
    .filter(({ key }) => !but.includes(key))
    .map(({ key, name, parent }) => ({
      key,
      name,
      note: parent ? `in ${names.get(parent) ?? parent}` : undefined,
    }));
  return <Picker what="group" choices={choices} {...field} />;
}

type PersonProps = Field & { but?: string; name?: string; onPerson?: (person: Choice) => void };

/** Active accounts, found as one types. */
function usePeople() {
  const [words, setWords] = useState("");
  const asked = useSettled(words);
  const found = useQuery({
    queryKey: keys.people(asked),
    queryFn: () =>
      answer(api.GET("/api/accounts", { params: { query: { search: asked, state: "active", limit: 60 } } })),
    placeholderData: (before) => before,
    enabled: useDuty("roster.see"),
  });
  const people = (found.data?.results ?? []).map(({ id, name, email }) => ({ key: id, name, note: email }));
  return { people, words, setWords, found };
}

/** Finds accounts as one types; `but` leaves one out. */
export function PersonPicker({ but, name, onPerson, ...field }: PersonProps) {
  const { people, setWords, found } = usePeople();
  const choices = people.filter(({ key }) => key !== but);
  return (
    <Picker
      what="person"
      choices={choices}
      onSearch={setWords}
      looking={found.isFetching}
      chosenName={name}
      {...field}
      onPick={(key) => {
        const person = choices.find((choice) => choice.key === key);
        if (person) onPerson?.(person);
        field.onPick(key);
      }}
    />
  );
}

type WhomProps = Field & { first?: Choice; groups?: boolean; name?: string };

/** A role, a group or an account, as `role KEY`, `group KEY`, `account ID`; `first` stands before all of them. */
export function WhomPicker({ first, groups = true, name, ...field }: WhomProps) {
  const { people, words, setWords, found } = usePeople();
  const roles = roleChoices(useRoles().data ?? []).map((role) => ({ ...role, note: undefined }));
  const teams = useGroups().data ?? [];
  const choices = [
    ...[...(first ? [first] : []), ...headed("role", "Roles", roles)].filter((one) => matches(one, words)),
    ...(groups ? headed("group", "Groups", teams) : []).filter((one) => matches(one, words)),
    ...headed("account", "People", people),
  ];
  return (
    <Picker
      what="role, a group or a person"
      choices={choices}
      onSearch={setWords}
      looking={found.isFetching}
      chosenName={name}
      {...field}
    />
  );
}

function headed(kind: string, head: string, some: Choice[]): Choice[] {
  return some.map(({ key, name, note, cloth }) => ({ key: `${kind} ${key}`, name, note, cloth, head }));
}

export function CapabilityPicker(field: Field) {
  const catalogue = useCatalogue().data;
  const choices = catalogue
    ? capabilitiesOf(catalogue).map((key) => {
        const { verb, thing } = wordsOf(key, catalogue);
        return { key, name: headOf(key, catalogue), note: `${verb} ${thing}`.trim() };
      })
    : [];
  return <Picker what="capability" choices={choices} {...field} />;
}
