// Search-listing texts of a page or a site, with the version they were read at.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answerWithTag, api, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";

export type Listing = Shapes["ListingShape"];
type Tagged = { listing: Listing; tag: string };
export type Listings = ReturnType<typeof usePageListing>;

export function usePageListing(node: string, enabled: boolean) {
  const key = keys.pageListing(node);
  const path = { node };
  return {
    read: useQuery({
      queryKey: key,
      enabled,
      queryFn: () => read(api.GET("/api/desk/pages/{node}/listing", { params: { path } })),
    }),
    save: useMutation({
      mutationFn: ({ listing, tag }: Tagged) =>
        read(
          api.PUT("/api/desk/pages/{node}/listing", {
            params: { path, header: { "If-Match": tag } },
            body: listing,
          }),
        ),
      onSuccess: (saved) => keep(key, saved),
    }),
  };
}

export function useSiteListing(site: string) {
  const key = keys.siteListing(site);
  const path = { site };
  return {
    read: useQuery({
      queryKey: key,
      queryFn: () => read(api.GET("/api/sites/{site}/listing", { params: { path } })),
    }),
    save: useMutation({
      mutationFn: ({ listing, tag }: Tagged) =>
        read(
          api.PUT("/api/sites/{site}/listing", {
            params: { path, header: { "If-Match": tag } },
            body: listing,
          }),
        ),
      onSuccess: (saved) => keep(key, saved),
    }),
  };
}

async function read(asking: Parameters<typeof answerWithTag<Listing>>[0]): Promise<Tagged> {
  const { data, tag } = await answerWithTag(asking);
  return { listing: data, tag };
}

function keep(key: string[], saved: Tagged) {
  queryClient.setQueryData(key, saved);
  queryClient.invalidateQueries({ queryKey: keys.ledgers });
}
