// The right side of the desk: the chosen component by its facets, then the page's fields.
import type { ProblemError } from "../api/client";
import { useSession } from "../shared/session";
import { INPUT } from "../shared/ui";
import { ClosedField } from "./ClosedField";
import { ComponentForm } from "./ComponentForm";
import { Discussion } from "./Discussion";
import { PageListing, SiteListing } from "./Listing";
import { PicturePicker } from "./PicturePicker";
import { RichText } from "./RichText";
import { Topics } from "./Topics";
import type { Ghost, Page, PageComponent, PageField } from "./useDesk";

type PanelProps = {
  page: Page;
  values: Record<string, unknown>;
  ghosts: Ghost[];
  chosen: string | null;
  problem: ProblemError | null;
  onComponents: (components: PageComponent[]) => void;
  onTopics: (topics: string[]) => void;
  onValue: (key: string, value: unknown) => void;
};

export function PartPanel(props: PanelProps) {
  const { page, values, ghosts, chosen, problem, onComponents, onTopics, onValue } = props;
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
        <ClosedField
          key={ghost.key}
          name={ghost.name}
          note="hidden field"
          question={{ action: "see-field", node: page.id, field: ghost.key }}
        />
      ))}
      <Topics page={page} onChange={onTopics} />
      {page.tree === "content" && <PageListing key={`listing-${page.id}`} page={page} />}
      {page.may_edit_site_listing && page.tree === "content" && (
        <SiteListing key={page.site} site={page.site} />
      )}
      <Discussion node={page.id} />
      <p className="mt-4 px-[18px] text-xs text-ink2">
        {page.author ? `Written by ${page.author}. ` : ""}
        {page.saved_by ? `Last saved by ${page.saved_by}.` : ""}
      </p>
    </aside>
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
      <label id={`${id}-label`} htmlFor={id} className="mb-[2px] flex justify-between text-read">
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
