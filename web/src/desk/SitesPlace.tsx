// Sites: their order, a new one, and the settings of each.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, answerWithTag, api, ProblemError, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { LANGUAGES } from "../shared/languages";
import { queryClient } from "../shared/query";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";
import { useSites } from "../shared/useAccounts";
import { useParam } from "../shared/useParam";
import { placesChanged } from "./usePlaces";

type Settings = Shapes["SiteSettingsShape"];

function changed() {
  queryClient.invalidateQueries({ queryKey: keys.sites });
  placesChanged();
}

export function SitesPlace() {
  const sites = useSites();
  const [chosen, choose] = useParam("site");
  const order = useMutation({
    mutationFn: (all: string[]) => answer(api.PUT("/api/sites/order", { body: { keys: all } })),
    onSuccess: changed,
  });
  const all = sites.data?.map(({ key }) => key) ?? [];
  return (
    <section
      aria-label="Sites"
      className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] max-[760px]:px-3 max-[760px]:pt-4 pb-8"
    >
      <h1>Sites</h1>
      {sites.error && <ErrorNotice error={sites.error} again={sites.refetch} />}
      {sites.isPending && <Loading what="the sites" />}
      {sites.data?.length === 0 && <Empty title="There is no site yet">Make the first one.</Empty>}
      <ErrorNotice error={order.error} />
      <ol className="mt-3 max-w-[640px]">
        {sites.data?.map((site, at) => (
          <li key={site.key} className="flex items-center gap-3 border-b border-line py-2">
            <button
              type="button"
              aria-expanded={chosen === site.key}
              onClick={() => choose(chosen === site.key ? "" : site.key)}
              className="min-w-0 flex-1 truncate text-left font-semibold hover:underline"
            >
              {site.name}
            </button>
            <a className="text-xs text-ink2 underline underline-offset-2" href={`/site/${site.key}/`}>
              /site/{site.key}/
            </a>
            <Button
              look="quiet"
              aria-label={`${site.name} further up`}
              disabled={at === 0 || order.isPending}
              onClick={() => order.mutate(swapped(all, at - 1))}
            >
              ↑
            </Button>
            <Button
              look="quiet"
              aria-label={`${site.name} further down`}
              disabled={at === all.length - 1 || order.isPending}
              onClick={() => order.mutate(swapped(all, at))}
            >
              ↓
            </Button>
          </li>
        ))}
      </ol>
      {chosen ? <OneSite key={chosen} site={chosen} /> : <NewSite onMade={({ key }) => choose(key)} />}
    </section>
  );
}

/** The same keys, those at a place and after it swapped. */
function swapped(all: string[], at: number): string[] {
  const [one, other] = [all[at], all[at + 1]];
  return all.map((key, i) => (i === at ? (other ?? key) : i === at + 1 ? (one ?? key) : key));
}

function NewSite({ onMade }: { onMade: (site: Settings) => void }) {
  const [name, setName] = useState("");
  const make = useMutation({
    mutationFn: () => answer(api.POST("/api/sites", { body: { name } })),
    onSuccess: (site) => {
      changed();
      onMade(site);
    },
  });
  const problem = make.error instanceof ProblemError ? make.error : null;
  return (
    <form
      className="mt-5 max-w-[360px]"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <Labelled
        label="A new site"
        hint="It begins with a home page and a folder for its media."
        error={problem?.at("/name") ?? problem?.problem.detail}
      >
        {(id, by) => (
          <span className="flex gap-2">
            <input
              id={id}
              aria-describedby={by}
              value={name}
              maxLength={120}
              autoComplete="off"
              onChange={(event) => setName(event.target.value)}
              className={INPUT}
            />
            <Button type="submit" disabled={make.isPending}>
              Make it
            </Button>
          </span>
        )}
      </Labelled>
    </form>
  );
}

function OneSite({ site }: { site: string }) {
  const settings = useQuery({
    queryKey: keys.site(site),
    queryFn: () => answerWithTag(api.GET("/api/sites/{site}", { params: { path: { site } } })),
    retry: false,
  });
  const [saved, tellSaved] = useState(false);
  if (settings.error) return <ErrorNotice error={settings.error} again={settings.refetch} />;
  if (!settings.data) return <Loading what="the settings" />;
  const { data, tag } = settings.data;
  return (
    <>
      <SettingsForm key={tag} settings={data} tag={tag} onSaved={tellSaved} />
      <p role="status" className="mt-2 text-sm text-ink2">
        {saved ? "Saved." : ""}
      </p>
    </>
  );
}

type SettingsFormProps = { settings: Settings; tag: string; onSaved: (saved: boolean) => void };

function SettingsForm({ settings, tag, onSaved }: SettingsFormProps) {
  const [said, say] = useState({
    name: settings.name,
    tagline: settings.tagline,
    footer: settings.footer,
    language: settings.language,
    hosts: settings.hosts.join(" "),
    bin_days: String(settings.bin_days),
  });
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PATCH("/api/sites/{site}", {
          params: { path: { site: settings.key }, header: { "If-Match": tag } },
          body: {
            ...said,
            language: said.language as Shapes["PatchedSiteChangeInputRequest"]["language"],
            hosts: said.hosts.split(/[\s,]+/).filter(Boolean),
            bin_days: Number(said.bin_days),
          },
        }),
      ),
    onMutate: () => onSaved(false),
    onSuccess: () => {
      onSaved(true);
      queryClient.invalidateQueries({ queryKey: keys.site(settings.key) });
      changed();
    },
  });
  const problem = save.error instanceof ProblemError ? save.error : null;
  const text = (key: keyof typeof said, label: string, hint?: string) => (
    <Labelled label={label} hint={hint} error={problem?.at(`/${key}`)}>
      {(id, by) => (
        <input
          id={id}
          aria-describedby={by}
          value={said[key]}
          onChange={(event) => say({ ...said, [key]: event.target.value })}
          className={INPUT}
        />
      )}
    </Labelled>
  );
  return (
    <form
      aria-label={`Settings of ${settings.name}`}
      className="mt-5 max-w-[460px]"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h2 className="mb-2">Settings of {settings.name}</h2>
      {text("name", "Name")}
      {text("tagline", "Line beneath the name")}
      {text("footer", "Line beneath every page", "Without one, its name stands there.")}
      <Labelled label="Language" error={problem?.at("/language")}>
        {(id, by) => (
          <select
            id={id}
            aria-describedby={by}
            value={said.language}
            onChange={(event) => say({ ...said, language: event.target.value })}
            className={INPUT}
          >
            {LANGUAGES.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      {text(
        "hosts",
        "Host names",
        "Such as www.quay.example; several with spaces between. docs/running.md says how.",
      )}
      {text("bin_days", "Days in the bin", "For so long at least what is removed can be brought back.")}
      {problem && !problem.problem.errors && <ErrorNotice error={problem} />}
      <Button type="submit" look="main" disabled={save.isPending}>
        Save
      </Button>
    </form>
  );
}
