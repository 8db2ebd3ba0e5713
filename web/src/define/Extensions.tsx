// The extensions that are installed, each with what it brings, to switch on and off.
import { Switch } from "radix-ui";
import { useState } from "react";
import { bothWords } from "../shared/changes/impactText";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useSession } from "../shared/session";
import { count } from "../shared/time";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { type Extension, useExtensions, useSwitchExtension, useSwitched } from "./useCatalogue";

export function Extensions() {
  const extensions = useExtensions();
  return (
    <section aria-labelledby="extensions" className="mt-6">
      <h2 id="extensions" className="border-b border-line pb-1">
        Extensions
      </h2>
      <ErrorNotice error={extensions.error} again={extensions.refetch} />
      {extensions.isPending && <Loading what="the extensions" />}
      {extensions.data?.length === 0 && (
        <Empty title="None is installed">docs/extensions.md tells how.</Empty>
      )}
      <ul>
        {extensions.data?.map((extension) => (
          <Line key={extension.key} extension={extension} />
        ))}
      </ul>
    </section>
  );
}

function Line({ extension }: { extension: Extension }) {
  const { key, name, version, description, on, types, components, duties, roles, pages } = extension;
  const [asking, ask] = useState(false);
  const switched = useSwitched(key, asking);
  const flip = useSwitchExtension();
  const may = useSession().data?.duties.includes("site.settings") ?? false;
  const brings = [
    ...types,
    ...components.map((one) => one.toLowerCase()),
    ...duties.map((one) => `“${one}”`),
  ];
  const kinds = `${count(pages, "page")} ${pages === 1 ? "is" : "are"} of its kinds.`;
  const used =
    roles === null
      ? `Of what you see, ${kinds}`
      : roles + pages === 0
        ? "No role says anything about it yet, and no page is of its kinds."
        : `${count(roles, "role")} ${roles === 1 ? "says" : "say"} something about it, and ${kinds}`;
  return (
    <li className="flex items-start gap-4 border-b border-linen2 py-3">
      <div className="min-w-0 flex-1">
        <h3 className="text-lead font-semibold">
          {name} <span className="font-normal text-ink2">{version}</span>
        </h3>
        <p>{description}</p>
        <p className="text-ink2">Brings {brings.join(", ")}.</p>
        <p className="text-ink2">{used}</p>
        <ErrorNotice error={flip.error} />
      </div>
      <div className="flex items-center gap-2 pt-1 text-sm">
        <span aria-hidden="true">{on ? "On" : "Off"}</span>
        <Switch.Root
          checked={on}
          disabled={!may}
          aria-busy={flip.isPending}
          aria-label={`${name} ${on ? "On" : "Off"}`}
          onCheckedChange={() => {
            // It stays where the focus is while it waits, and does nothing then.
            if (!flip.isPending) ask(true);
          }}
          className="h-[20px] w-[36px] rounded-full border border-line2 bg-linen2 p-[2px] data-[state=checked]:bg-rod disabled:opacity-55"
        >
          <Switch.Thumb className="block size-[14px] rounded-full bg-ink2 transition-transform data-[state=checked]:translate-x-[16px] data-[state=checked]:bg-white" />
        </Switch.Root>
      </div>
      <Dialog open={asking} onClose={() => ask(false)} title={`Switch ${name} ${on ? "off" : "on"}?`}>
        <p>{used}</p>
        <p className="mt-2 text-ink2">
          {on
            ? "Until it is on again nobody but keyholders sees those pages, and what roles say about it does not count. Nothing of it is lost."
            : "What roles say about it counts from then on. What it brings that no role speaks of is given to nobody."}
        </p>
        <p role="status" className="mt-2 font-semibold first-letter:uppercase">
          {switched.error && `What it would do could not be worked out: ${switched.error.message}`}
          {switched.isPending && "Working out for whom it would change anything…"}
          {switched.data && `${bothWords(switched.data)}.`}
        </p>
        <DialogButtons>
          <Button onClick={() => ask(false)}>{on ? "Leave it on" : "Leave it off"}</Button>
          <Button
            look="main"
            onClick={() => {
              flip.mutate({ key, on: !on });
              ask(false);
            }}
          >
            {on ? "Switch off" : "Switch on"}
          </Button>
        </DialogButtons>
      </Dialog>
    </li>
  );
}
