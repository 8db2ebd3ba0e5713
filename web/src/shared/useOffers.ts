// What the desk offers: where one may work and make something, and which of its lists hold anything.
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { keys } from "./keys";

/** Asked for whoever the desk is open to. */
export function useOffers(open = true) {
  return useQuery({
    queryKey: keys.offers,
    queryFn: () => answer(api.GET("/api/desk/offers")),
    enabled: open,
  });
}
