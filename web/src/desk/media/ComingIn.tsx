// Files that come in, each with how far it is, what became of it, and what can be done about it.
import { TextLink } from "../../shared/TextLink";
import { count } from "../../shared/time";
import { Button } from "../../shared/ui";
import { again, clear, type Incoming, useIncoming } from "./incoming";

export function ComingIn() {
  const all = useIncoming();
  if (all.length === 0) return null;
  const left = all.filter(({ state }) => state === "waiting" || state === "sending").length;
  const refused = all.filter(({ state }) => state === "refused").length;
  return (
    <section aria-labelledby="coming-in" className="mt-5 border-t border-line pt-3">
      <div className="flex items-baseline gap-3">
        <h2 id="coming-in" className="flex-1 text-lead font-semibold">
          Coming in
        </h2>
        <p role="status" className="text-sm text-ink2">
          {left > 0
            ? `${count(left, "file")} to go`
            : `${count(all.length - refused, "file")} came in${refused > 0 ? `, ${refused} did not` : ""}`}
        </p>
        {left < all.length && (
          <Button look="quiet" onClick={clear}>
            Clear
          </Button>
        )}
      </div>
      <ul className="max-h-[280px] overflow-y-auto">
        {all.map((one) => (
          <Line key={one.id} one={one} />
        ))}
      </ul>
    </section>
  );
}

function Line({ one }: { one: Incoming }) {
  return (
    <li className="border-b border-linen2 py-1.5 text-sm">
      <div className="flex items-center gap-3">
        <span className="min-w-0 flex-1 truncate">
          {one.page ? (
            <TextLink to={`/desk/${one.page.id}?tree=media`}>{one.page.title}</TextLink>
          ) : (
            one.file.name
          )}
        </span>
        <span className="figures shrink-0 text-xs text-ink2">{says(one)}</span>
        {one.state === "refused" && (
          <Button onClick={() => again(one.id)} aria-label={`Bring ${one.file.name} in again`}>
            Again
          </Button>
        )}
      </div>
      {one.state === "refused" ? (
        <p role="alert" className="text-xs text-bar">
          {one.told}
        </p>
      ) : (
        one.state !== "done" && (
          <progress
            aria-label={`How much of ${one.file.name} has gone`}
            value={one.sent}
            max={1}
            className="mt-1 h-[5px] w-full accent-rod"
          />
        )
      )}
    </li>
  );
}

function says({ state, sent, file, page }: Incoming): string {
  if (state === "done") return `checked, ${page?.state ?? "draft"}`;
  if (state === "refused") return "did not come in";
  if (state === "waiting") return "waits";
  if (sent === 1) return "being checked";
  return `${Math.floor(sent * 100)} % of ${size(file.size)}`;
}

/** "310 kB", "4.3 MB". */
export function size(bytes: number): string {
  const kilobytes = bytes / 1024;
  return kilobytes < 1000 ? `${Math.ceil(kilobytes)} kB` : `${(kilobytes / 1024).toFixed(1)} MB`;
}
