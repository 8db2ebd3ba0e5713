// Hand out: one's own people, and the roles one may give them.

import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { RoleCloth, RoleName } from "../cloth/RoleCloth";
import { Foreseen } from "../shared/changes/Foreseen";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { DateInput } from "../shared/dates/DateInput";
import { keys } from "../shared/keys";
import { type Choice, Picker } from "../shared/Picker";
import { queryClient } from "../shared/query";
import { useDuty } from "../shared/session";
import { count, day } from "../shared/time";
import { useFound } from "../shared/tree/nodes";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";

type Handing = Shapes["HandingOutShape"];
type Person = Handing["people"][number];

export function HandOutPlace() {
  const handing = useQuery({ queryKey: keys.handingOut, queryFn: () => answer(api.GET("/api/handing-out")) });
  const [giving, give] = useState<Person | null>(null);
  const [words, setWords] = useState("");
  const back = useMutation({
    mutationFn: (assignment: string) =>
      answer(api.DELETE("/api/handing-out/{assignment}", { params: { path: { assignment } } })),
    onSettled: () => queryClient.invalidateQueries({ queryKey: keys.handingOut }),
  });
  if (handing.error) return <ErrorNotice error={handing.error} again={handing.refetch} />;
  if (!handing.data) return <Loading what="your people" />;
  const { delegations, people, roles } = handing.data;
  const named = new Map(roles.map((role) => [role.key, role]));
  if (delegations.length === 0)
    return (
      <Empty heading title="There is nothing for you to hand out">
        Nobody has let you give roles to others.
      </Empty>
    );
  const found = people.filter(({ name, email }) =>
    `${name} ${email}`.toLowerCase().includes(words.trim().toLowerCase()),
  );
  return (
    <section aria-label="Hand out" className="min-w-0 flex-1 overflow-y-auto px-8 pt-[30px] pb-8">
      <h1>Hand out</h1>
      <ul className="mt-2 text-sm text-ink2">
        {delegations.map((one) => (
          <li key={one.id}>
            You may give {one.roles.map((key) => named.get(key)?.name ?? key).join(", ")} {one.where} to{" "}
            {one.receivers_name ? `members of ${one.receivers_name}` : "anyone"}
            {one.ends ? `, until ${day(one.ends)}` : ""}.
          </li>
        ))}
      </ul>
      <div className="mt-4 mb-2 flex items-center gap-3">
        <input
          aria-label="Part of a name"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Part of a name"
          className={`${INPUT} w-[260px]!`}
        />
        <span className="text-sm text-ink2">{count(found.length, "person", "people")}</span>
      </div>
      <ErrorNotice error={back.error} />
      <ul>
        {found.map((person) => (
          <li
            key={person.id}
            className="grid min-h-[42px] grid-cols-[minmax(180px,1fr)_minmax(200px,2fr)_110px] items-center gap-4 border-b border-line py-1.5 text-read"
          >
            <span className="leading-tight">
              <strong className="block font-semibold">{person.name}</strong>
              <span className="text-xs text-ink2">{person.email}</span>
            </span>
            <span className="flex flex-col gap-0.5">
              {person.given.map((given) => {
                const role = named.get(given.role ?? "");
                return (
                  <span key={given.id} className="flex items-center gap-2">
                    {role && <RoleName role={role} />}
                    <span className="text-xs text-ink2">
                      {given.where}
                      {given.ends ? `, until ${day(given.ends)}` : ""}
                    </span>
                    <Button
                      look="quiet"
                      aria-label={`End ${role?.name} of ${person.name}`}
                      onClick={() => back.mutate(given.id)}
                    >
                      End
                    </Button>
                  </span>
                );
              })}
            </span>
            <span className="text-right">
              <Button onClick={() => give(person)} aria-label={`Give a role to ${person.name}`}>
                Give a role
              </Button>
            </span>
          </li>
        ))}
      </ul>
      <Dialog open={giving !== null} onClose={() => give(null)} title={`Give ${giving?.name ?? ""} a role`}>
        {giving && <Form person={giving} handing={handing.data} onClose={() => give(null)} />}
      </Dialog>
    </section>
  );
}

/** The pages one sees where a delegation holds, on one of which alone a role can be given, found by words. */
function usePartsOf({ branches, sites }: Shapes["ScopeShape"] = {}, words: string): Choice[] {
  const found = useFound("content", words, { under: branches }, useDuty("desk.open")).data ?? [];
  const titles = new Map(found.map(({ id, title }) => [id, title]));
  return found
    .filter((node) => node.found && !node.context && (!sites || sites.includes(node.site ?? "")))
    .map(({ id, title, parent }) => ({ key: id, name: title, note: titles.get(parent ?? "") }));
}

type FormProps = { person: Person; handing: Handing; onClose: () => void };

function Form({ person, handing, onClose }: FormProps) {
  const [delegation, setDelegation] = useState(handing.delegations[0]?.id ?? "");
  const chosen = handing.delegations.find(({ id }) => id === delegation);
  const offered = handing.roles.filter(({ key }) => chosen?.roles.includes(key));
  const [role, setRole] = useState(offered[0]?.key ?? "");
  const [words, setWords] = useState("");
  const parts = usePartsOf(chosen?.scope, words);
  const [part, setPart] = useState("");
  const [partName, setPartName] = useState("");
  const [ends, setEnds] = useState(chosen?.ends?.slice(0, 10) ?? "");
  const end = chosen?.ends?.startsWith(ends) ? chosen.ends : ends && new Date(`${ends}T23:59`).toISOString();
  const body = {
    role,
    account: person.id,
    scope: { ...chosen?.scope, ...(part ? { branches: [part] } : {}) },
    ends: ends ? end : null,
  };
  const give = useMutation({
    mutationFn: () => answer(api.POST("/api/handing-out", { body })),
    onSuccess: (now) => {
      queryClient.setQueryData(keys.handingOut, now);
      onClose();
    },
  });
  const problem = give.error instanceof ProblemError ? give.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    give.mutate();
  }

  return (
    <form onSubmit={submit}>
      {handing.delegations.length > 1 && (
        <Labelled label="Where">
          {(id) => (
            <Picker
              id={id}
              what="place"
              choices={handing.delegations.map((one) => ({ key: one.id, name: one.where }))}
              value={delegation}
              onPick={(id) => {
                setDelegation(id);
                setPart("");
                setRole(handing.delegations.find((one) => one.id === id)?.roles[0] ?? "");
              }}
            />
          )}
        </Labelled>
      )}
      <Labelled label="Role" error={problem?.at("/role")}>
        {(id, by) => (
          <Picker
            id={id}
            describedBy={by}
            what="role"
            choices={offered.map(({ key, name, cloth }) => ({ key, name, cloth }))}
            value={role}
            onPick={setRole}
          />
        )}
      </Labelled>
      {chosen && handing.delegations.length === 1 && (
        <p className="mb-3 text-sm">
          {offered.find(({ key }) => key === role) && (
            <RoleCloth cloth={offered.find(({ key }) => key === role)?.cloth} size={13} />
          )}{" "}
          It holds {chosen.where}.
        </p>
      )}
      {(parts.length > 0 || words) && (
        <Labelled label="Only on" hint="It then holds there and on what is beneath.">
          {(id, by) => (
            <Picker
              id={id}
              describedBy={by}
              what="page"
              none="All of it"
              choices={parts}
              onSearch={setWords}
              chosenName={partName || undefined}
              value={part}
              onPick={(id) => {
                setPart(id);
                setPartName(parts.find(({ key }) => key === id)?.name ?? "");
              }}
            />
          )}
        </Labelled>
      )}
      <Labelled
        label="Until"
        hint={chosen?.ends ? `No later than ${day(chosen.ends)}.` : "Without a date, with no end."}
      >
        {(id, by) => <DateInput id={id} describedBy={by} value={ends} onChange={setEnds} />}
      </Labelled>
      {role && (
        <Foreseen
          of={["hand-out", body]}
          ask={() => answer(api.POST("/api/handing-out/foreseen", { body }))}
        />
      )}
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={give.isPending || role === ""}>
          Give it
        </Button>
      </DialogButtons>
    </form>
  );
}
