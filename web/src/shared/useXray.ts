// Whether the X-ray is on (kept in the address, meaningful only while standing in), and what it shows of a page.
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "./keys";
import { useSession } from "./session";
import { useParam } from "./useParam";

export function useXray(): [boolean, (on: boolean) => void] {
  const [value, set] = useParam("xray");
  const standing = Boolean(useSession().data?.standing_in);
  return [standing && value === "on", (on) => set(on ? "on" : "")];
}

/** A page with what is hidden of it from whom one stands in for. */
export function useXrayPage(node: string, on: boolean) {
  return useQuery({
    queryKey: keys.xrayPage(node),
    queryFn: () => answer(api.GET("/api/xray/pages/{node}", { params: { path: { node } } })),
    enabled: on && node !== "",
    retry: false,
  });
}
