// What people must have when they come: a second factor, fields of their profile. It binds them, nobody else.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, answerWithTag, api, type Shapes } from "../api/client";
import { RoleName } from "../cloth/RoleCloth";
import { keys } from "../shared/keys";
import { RolePicker } from "../shared/pickers";
import { queryClient } from "../shared/query";
import { Button, Chip, ErrorNotice, Loading } from "../shared/ui";
import { useRoleMap } from "../shared/useRoles";
import { RosterHead } from "./RosterHead";

type Demands = Shapes["DemandsShape"];

export function ArrivalPlace() {
  const demands = useQuery({
    queryKey: keys.demands,
    queryFn: () => answerWithTag(api.GET("/api/demands")),
  });
  const [said, say] = useState("");
  return (
    <section aria-label="On arrival" className="min-w-0 flex-1 overflow-y-auto px-[18px] pt-[30px] pb-8">
      <RosterHead />
      <p className="mt-2 max-w-[760px] text-sm text-ink2">
        What people must have when they come, from their next visit on, before anything else is open to them.
      </p>
      {demands.error && <ErrorNotice error={demands.error} again={demands.refetch} />}
      {demands.isPending && <Loading what="what is asked" />}
      <p role="status" className="mt-2 text-sm">
        {said}
      </p>
      {demands.data && (
        <Form
          key={demands.data.tag}
          demands={demands.data.data}
          tag={demands.data.tag}
          onSaved={() => say("Asked from now on.")}
        />
      )}
    </section>
  );
}

type FormProps = { demands: Demands; tag: string; onSaved: () => void };

function Form({ demands, tag, onSaved }: FormProps) {
  const asked = demands.fields_asked.filter((field) => field.asked).map(({ key }) => key);
  const [roles, setRoles] = useState(demands.roles);
  const [risky, setRisky] = useState(demands.risky);
  const [fields, setFields] = useState(asked);
  const names = useRoleMap();
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT("/api/demands", {
          params: { header: { "If-Match": tag } },
          body: { roles, risky, fields_asked: fields },
        }),
      ),
    onSuccess: () => {
      onSaved();
      return queryClient.invalidateQueries({ queryKey: keys.demands });
    },
  });
  const same = risky === demands.risky && alike(roles, demands.roles) && alike(fields, asked);
  return (
    <div className="mt-4 grid max-w-[1100px] grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)] gap-12 max-[1100px]:grid-cols-1">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <h2 className="mb-1">A second factor</h2>
        <Check on={risky} onChange={setRisky}>
          of whoever may do something risky
          <span className="block text-xs text-ink2">{demands.duties.join(", ")}</span>
        </Check>
        <div className="mt-2 flex flex-wrap items-center gap-1.5">
          <span className="text-sm text-ink2">and of whoever holds</span>
          {roles.map((key) => (
            <Chip
              key={key}
              aria-label={`Ask it no longer of ${names.get(key)?.name ?? key}`}
              onClick={() => setRoles(roles.filter((role) => role !== key))}
            >
              {names.has(key) ? <RoleName role={names.get(key) as never} /> : key}
              <span aria-hidden="true">×</span>
            </Chip>
          ))}
          <RolePicker
            onPick={(key) => key && !roles.includes(key) && setRoles([...roles, key])}
            trigger={<Chip>+ role</Chip>}
          />
        </div>
        <h2 className="mt-6 mb-1">Filled in</h2>
        {demands.fields_asked.map(({ key, name }) => (
          <Check
            key={key}
            on={fields.includes(key)}
            onChange={(on) => setFields(on ? [...fields, key] : fields.filter((field) => field !== key))}
          >
            {name}
          </Check>
        ))}
        <p className="mt-1 text-xs text-ink2">
          Only whoever may change a field of their own profile is asked for it.
        </p>
        <ErrorNotice error={save.error} />
        <Button type="submit" look="main" className="mt-4" disabled={same || save.isPending}>
          Ask for this
        </Button>
      </form>
      <Lacking demands={demands} />
    </div>
  );
}

function Lacking({ demands }: { demands: Demands }) {
  if (demands.lacking_in_all === null) return null;
  const fields = new Map(demands.fields_asked.map(({ key, name }) => [key, name]));
  const words = (key: string) => fields.get(key) ?? key;
  return (
    <section aria-label="Who will be asked">
      <h2 className="mb-1">
        Will be asked at their next visit <span className="figures">{demands.lacking_in_all}</span>
      </h2>
      {demands.lacking_in_all === 0 && (
        <p className="text-sm text-ink2">Everybody has what is asked of them.</p>
      )}
      <ul>
        {demands.lacking.map(({ id, name, missing }) => (
          <li key={id} className="flex min-h-[34px] items-center gap-3 border-b border-line text-read">
            <Link to={`/assign/${id}`} className="flex-1 truncate font-semibold">
              {name}
            </Link>
            <span className="truncate text-xs text-ink2">{missing.map(words).join(", ")}</span>
          </li>
        ))}
      </ul>
      {demands.lacking_in_all > demands.lacking.length && (
        <p className="mt-1 text-xs text-ink2">and {demands.lacking_in_all - demands.lacking.length} more</p>
      )}
    </section>
  );
}

type CheckProps = { on: boolean; onChange: (on: boolean) => void; children: React.ReactNode };

function Check({ on, onChange, children }: CheckProps) {
  return (
    <label className="flex items-start gap-2 py-1 text-read">
      <input
        type="checkbox"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
        className="mt-[3px] accent-rod"
      />
      <span>{children}</span>
    </label>
  );
}

function alike(some: string[], others: string[]): boolean {
  return some.length === others.length && some.every((one) => others.includes(one));
}
