// Under the X-ray, the places of the crossbar and sections of the desk that they do not have.
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { Closed, thingOf } from "../shared/Closed";
import { keys } from "../shared/keys";

export function XrayPlaces() {
  const closed = useQuery({ queryKey: keys.xrayPlaces, queryFn: () => answer(api.GET("/api/xray/places")) });
  if (!closed.data) return null;
  return (
    <section
      aria-label="Closed to them"
      className="flex shrink-0 flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-[#c28f2c] bg-[#fbf2df] px-[18px] py-1.5 text-sm"
    >
      <strong>Not there for them</strong>
      {closed.data.length === 0 && <span className="text-ink2">No place is closed to them.</span>}
      <Closed things={closed.data.map(thingOf)} />
    </section>
  );
}
