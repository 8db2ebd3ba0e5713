// Under the X-ray, the places of the crossbar and sections of the desk that they do not have.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { useReasonWords } from "../shared/useWords";

export function XrayPlaces() {
  const closed = useQuery({ queryKey: keys.xrayPlaces, queryFn: () => answer(api.GET("/api/xray/places")) });
  const words = useReasonWords();
  if (!closed.data) return null;
  return (
    <section
      aria-label="Closed to them"
      className="flex shrink-0 flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-[#c28f2c] bg-[#fbf2df] px-[18px] py-1.5 text-sm"
    >
      <strong>Not there for them</strong>
      {closed.data.length === 0 && <span className="text-ink2">No place is closed to them.</span>}
      {closed.data.map(({ name, action, reason }) => (
        <span key={name} className="whitespace-nowrap">
          <span className="border-b border-dashed border-[#8f6620]">{name}</span>{" "}
          <span className="text-ink2">{words(reason)}</span>{" "}
          <Link to={`/why?${new URLSearchParams({ action })}`} className="underline">
            Why<span className="sr-only"> is {name} closed</span>
          </Link>
        </span>
      ))}
    </section>
  );
}
