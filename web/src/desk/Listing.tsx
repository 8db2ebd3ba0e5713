// How a page, or a whole site, is listed by search engines: apart from the rest of the page.
import { useState } from "react";
import { ProblemError } from "../api/client";
import { useLooksOnly } from "../shared/session";
import { Button, ErrorNotice, INPUT } from "../shared/ui";
import { ClosedField } from "./ClosedField";
import type { Page } from "./useDesk";
import { type Listing, type Listings, usePageListing, useSiteListing } from "./useListing";

export function PageListing({ page }: { page: Page }) {
  const listing = usePageListing(page.id, page.may_edit_listing);
  if (page.may_edit_listing) return <Form name="Search listing" listing={listing} instead={page.title} />;
  return (
    <section aria-label="Search listing" className="mt-4">
      <h2 className="mb-1 px-[18px]">Search listing</h2>
      <ClosedField
        name="Title and description"
        note="closed"
        question={{ action: "listing.edit", node: page.id }}
      />
    </section>
  );
}

/** What a whole site says of itself. */
export function SiteListing({ site }: { site: string }) {
  return <Form name="Listing of the whole site" listing={useSiteListing(site)} instead="" />;
}

type FormProps = { name: string; listing: Listings; instead: string };

function Form({ name, listing: { read, save }, instead }: FormProps) {
  const [edits, edit] = useState<Partial<Listing>>({});
  const looks = useLooksOnly();
  const problem = save.error instanceof ProblemError ? save.error : null;
  const dirty = Object.keys(edits).length > 0;
  if (!read.data) return <ErrorNotice error={read.error} />;
  const shown = { ...read.data.listing, ...edits };
  const id = name.toLowerCase().replaceAll(" ", "-");

  function text(key: "title" | "description", label: string) {
    const error = problem?.at(`/${key}`);
    return (
      <div className="mb-2">
        <label htmlFor={`${id}-${key}`} className="mb-[2px] block text-read">
          {label}
        </label>
        <textarea
          id={`${id}-${key}`}
          rows={key === "title" ? 1 : 3}
          readOnly={looks}
          placeholder={key === "title" ? instead : ""}
          value={shown[key]}
          onChange={(event) => edit({ ...edits, [key]: event.target.value })}
          className={INPUT}
        />
        {error && (
          <p role="alert" className="text-xs text-bar">
            {error}
          </p>
        )}
      </div>
    );
  }

  return (
    <section aria-label={name} className="mt-4 px-[18px]">
      <h2 className="mb-1">{name}</h2>
      {text("title", instead ? "Title in listings" : "After each page’s title")}
      {text("description", instead ? "Description in listings" : "Where a page describes itself nowhere")}
      <label className="flex items-center gap-2 text-read">
        <input
          type="checkbox"
          disabled={looks}
          checked={shown.hidden}
          onChange={(event) => edit({ ...edits, hidden: event.target.checked })}
        />
        Keep out of listings
      </label>
      {!problem?.problem.errors && <ErrorNotice error={save.error} />}
      <p role="status" className="sr-only">
        {save.isSuccess && !dirty ? "The listing is saved." : ""}
      </p>
      {dirty && (
        <div className="mt-2 flex gap-2">
          <Button
            look="main"
            disabled={save.isPending}
            onClick={() => save.mutate({ listing: shown, tag: read.data.tag }, { onSuccess: () => edit({}) })}
          >
            Save listing
          </Button>
          <Button
            look="quiet"
            onClick={() => {
              edit({});
              save.reset();
              read.refetch();
            }}
          >
            Take back
          </Button>
        </div>
      )}
    </section>
  );
}
