// The right side of the desk: the chosen component by its facets, then the page's fields.
import type { ProblemError } from "../api/client";
import { useSession } from "../app/session";
import { Button, INPUT } from "../app/ui";
import { useCatalogue } from "../app/useRoles";
import { Discussion } from "./Discussion";
import { PicturePicker } from "./PicturePicker";
import { RichText } from "./RichText";
import type { Ghost, Page, PageComponent, PageField } from "./useDesk";
import { WhyPopover } from "./Why";

type PanelProps = {
  page: Page;
  values: Record<string, unknown>;
  ghosts: Ghost[];
  chosen: string | null;
  problem: ProblemError | null;
  onComponents: (components: PageComponent[]) => void;
  onValue: (key: string, value: unknown) => void;
};

export function PartPanel({ page, values, ghosts, chosen, problem, onComponents, onValue }: PanelProps) {
  const at = page.components.findIndex((component) => component.id === chosen);
  const component = page.components[at];
  const hiddenFields = ghosts.filter((ghost) => ghost.kind === "field");
  return (
    <aside
      aria-label="Parts of the page"
      className="w-[318px] shrink-0 max-[1180px]:w-[270px] overflow-y-auto border-l border-line bg-paper pt-[16px] pb-8"
    >
      {component && (
        <ComponentForm
          key={component.id}
          page={page}
          at={at}
          component={component}
          ghosts={ghosts}
          problem={problem}
          onComponents={onComponents}
        />
      )}
      <h2 className="mb-1 px-[18px]">Page fields</h2>
      {page.fields.length === 0 && hiddenFields.length === 0 && (
        <p className="px-[18px] text-sm text-ink2">None.</p>
      )}
      {page.fields.map((field) => (
        <FieldInput
          key={field.key}
          field={field}
          value={field.key in values ? values[field.key] : field.value}
          error={problem?.at(`/values/${field.key}`)}
          onChange={(value) => onValue(field.key, value)}
        />
      ))}
      {hiddenFields.map((ghost) => (
        <Shut
          key={ghost.key}
          name={ghost.name}
          note="hidden field"
          question={{ action: "see-field", node: page.id, field: ghost.key }}
        />
      ))}
      <Discussion node={page.id} />
      <p className="mt-4 px-[18px] text-xs text-ink2">
        {page.author ? `Written by ${page.author}. ` : ""}
        {page.saved_by ? `Last saved by ${page.saved_by}.` : ""}
      </p>
    </aside>
  );
}

type ShutProps = { name: string; note: string; question: Parameters<typeof WhyPopover>[0]["question"] };

/** Something closed: hatched, with its reason one click away. */
function Shut({ name, note, question }: ShutProps) {
  const standing = useSession().data?.standing_in;
  const line = (
    <span className="flex w-full items-center justify-between">
      <span className="font-semibold text-ink2">{name}</span>
      <span className="text-[13px] text-ink2">{note}</span>
    </span>
  );
  return (
    <div className="hatched mt-1 border-y border-linen2" data-shut={name}>
      {standing ? (
        <WhyPopover question={question}>
          <button type="button" className="w-full px-[18px] py-2 text-left">
            {line}
          </button>
        </WhyPopover>
      ) : (
        <div className="px-[18px] py-2">{line}</div>
      )}
    </div>
  );
}

const LABELS: Record<string, string> = {
  text: "Text",
  level: "Level",
  html: "Text",
  picture: "Picture",
  caption: "Caption",
  width: "Width",
  rows: "Rows, cells parted by |",
  head: "First row is a head",
  label: "Label",
  link: "Link",
  tone: "Tone",
};

type FormProps = {
  page: Page;
  at: number;
  component: PageComponent;
  ghosts: Ghost[];
  problem: ProblemError | null;
  onComponents: (components: PageComponent[]) => void;
};

function ComponentForm({ page, at, component, problem, onComponents }: FormProps) {
  const standing = Boolean(useSession().data?.standing_in);
  const known = useCatalogue().data?.components.find(({ key }) => key === component.kind);
  const facets = [...new Set(Object.values(known?.properties ?? {}))];
  const arrange = component.facets.layout ?? component.facets[facets[0] ?? ""] ?? false;

  function put(key: string, value: unknown) {
    onComponents(
      page.components.map((c) => (c.id === component.id ? { ...c, props: { ...c.props, [key]: value } } : c)),
    );
  }

  function shift(step: number) {
    const list = [...page.components];
    const other = list[at + step];
    if (!other) return;
    list[at + step] = component;
    list[at] = other;
    onComponents(list);
  }

  return (
    <section className="mb-4" aria-label={known?.name}>
      <h2 className="border-b border-line px-[18px] pb-1 text-[15px]">{known?.name}</h2>
      {facets.map((facet) => {
        const open = component.facets[facet];
        const name = facet[0]?.toUpperCase() + facet.slice(1);
        if (!open) {
          return (
            <Shut
              key={facet}
              name={name}
              note={component.locked ? "locked" : "closed"}
              question={{
                action: "change-facet",
                node: page.id,
                component: component.kind,
                facet,
                component_id: component.id,
              }}
            />
          );
        }
        const properties = Object.entries(known?.properties ?? {}).filter(([, of]) => of === facet);
        return (
          <fieldset key={facet} className="px-[18px] pt-2">
            <legend className="text-[13.5px] font-semibold">{name}</legend>
            {properties.map(([key]) => (
              <PropertyInput
                key={key}
                name={key}
                value={component.props[key]}
                readOnly={standing}
                error={problem?.at(`/components/${at}/props/${key}`)}
                onChange={(value) => put(key, value)}
              />
            ))}
          </fieldset>
        );
      })}
      {arrange && !standing && (
        <div className="flex gap-1 px-[12px] pt-2">
          <Button look="quiet" disabled={at === 0} onClick={() => shift(-1)}>
            Move up
          </Button>
          <Button look="quiet" disabled={at === page.components.length - 1} onClick={() => shift(1)}>
            Move down
          </Button>
          <Button
            look="quiet"
            onClick={() => onComponents(page.components.filter((c) => c.id !== component.id))}
          >
            Take out
          </Button>
        </div>
      )}
    </section>
  );
}

type InputProps = {
  name: string;
  value: unknown;
  readOnly: boolean;
  error?: string;
  onChange: (value: unknown) => void;
};

function PropertyInput({ name, value, readOnly, error, onChange }: InputProps) {
  const label = LABELS[name] ?? name;
  const id = `property-${name}`;
  return (
    <div className="mb-1.5">
      {name !== "head" && (
        <label htmlFor={id} className="text-xs text-ink2">
          {label}
        </label>
      )}
      <Control id={id} name={name} label={label} value={value} readOnly={readOnly} onChange={onChange} />
      {error && (
        <p role="alert" className="text-xs text-bar">
          {error}
        </p>
      )}
    </div>
  );
}

const CHOICES: Record<string, [string | number, string][]> = {
  level: [
    [2, "Level 2"],
    [3, "Level 3"],
  ],
  width: [
    ["wide", "Wide"],
    ["narrow", "Narrow"],
  ],
  tone: [
    ["plain", "Plain"],
    ["strong", "Strong"],
  ],
};

type ControlProps = Omit<InputProps, "error"> & { id: string; label: string };

function Control({ id, name, label, value, readOnly, onChange }: ControlProps) {
  const choices = CHOICES[name];
  if (choices) {
    return (
      <select
        id={id}
        disabled={readOnly}
        value={String(value ?? choices[0]?.[0])}
        onChange={(event) => onChange(choices.find(([v]) => String(v) === event.target.value)?.[0])}
        className={INPUT}
      >
        {choices.map(([v, text]) => (
          <option key={v} value={String(v)}>
            {text}
          </option>
        ))}
      </select>
    );
  }
  if (name === "html")
    return (
      <RichText id={id} label={label} value={String(value ?? "")} readOnly={readOnly} onChange={onChange} />
    );
  if (name === "picture")
    return <PicturePicker id={id} value={String(value ?? "")} readOnly={readOnly} onChange={onChange} />;
  if (name === "head") {
    return (
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          disabled={readOnly}
          checked={Boolean(value)}
          onChange={(e) => onChange(e.target.checked)}
        />
        {label}
      </label>
    );
  }
  if (name === "rows") {
    return (
      <textarea
        id={id}
        readOnly={readOnly}
        rows={5}
        value={((value as string[][]) ?? []).map((row) => row.join(" | ")).join("\n")}
        onChange={(event) =>
          onChange(event.target.value.split("\n").map((line) => line.split("|").map((c) => c.trim())))
        }
        className={INPUT}
      />
    );
  }
  return (
    <input
      id={id}
      readOnly={readOnly}
      value={String(value ?? "")}
      onChange={(e) => onChange(e.target.value)}
      className={INPUT}
    />
  );
}

type FieldProps = { field: PageField; value: unknown; error?: string; onChange: (value: unknown) => void };

function FieldInput({ field, value, error, onChange }: FieldProps) {
  const standing = Boolean(useSession().data?.standing_in);
  const id = `field-${field.key}`;
  const shut = !field.may_change;
  const common = {
    id,
    disabled: shut,
    readOnly: standing,
    "aria-invalid": Boolean(error),
    "aria-describedby": error ? `${id}-error` : undefined,
    className: INPUT,
    value: String(value ?? ""),
    onChange: (event: { target: { value: string } }) => onChange(event.target.value),
  };
  return (
    <div className="mb-2 px-[18px]">
      <label htmlFor={id} className="mb-[2px] flex justify-between text-[13.5px]">
        {field.name}
        {shut && <span className="text-xs text-ink2">to read only</span>}
      </label>
      {field.kind === "choice" ? (
        <select {...common} disabled={shut || standing}>
          <option value="">not said</option>
          {field.choices.map((choice) => (
            <option key={choice}>{choice}</option>
          ))}
        </select>
      ) : field.kind === "long" ? (
        <textarea {...common} rows={3} />
      ) : field.kind === "rich" && !shut ? (
        <RichText
          id={id}
          label={field.name}
          value={String(value ?? "")}
          readOnly={standing}
          onChange={onChange}
        />
      ) : field.kind === "picture" && !shut ? (
        <PicturePicker id={id} value={String(value ?? "")} readOnly={standing} onChange={onChange} />
      ) : field.kind === "reference" || field.kind === "picture" ? (
        <input {...common} value={field.shown ?? ""} readOnly />
      ) : field.kind === "rich" ? (
        <input {...common} value={String(value ?? "").replace(/<[^>]+>/g, "")} />
      ) : (
        <input
          {...common}
          type={field.kind === "date" ? "date" : "text"}
          inputMode={field.kind === "number" ? "decimal" : undefined}
        />
      )}
      {error && (
        <p id={`${id}-error`} role="alert" className="mt-[2px] text-xs text-bar">
          {error}
        </p>
      )}
    </div>
  );
}
