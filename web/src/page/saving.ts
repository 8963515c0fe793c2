/** Saving, and what stands in its way: a server that is away, or a bench that was saved elsewhere meanwhile. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ApiFault } from "../api/client";
import { openSavedInstead, save, saveAsNew } from "../bench/opening";

/** How often the server is asked whether it is there, ms. */
const ASK_EVERY = 4000;

const isAway = (error: unknown) =>
  error instanceof ApiFault && ["away", "database-down", "stopping", "unknown"].includes(error.code);

export function useSaving() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: ["benches"] });
  const saving = useMutation({ mutationFn: save, onSuccess, retry: false, networkMode: "always" });
  const asNew = useMutation({
    mutationFn: saveAsNew,
    onSuccess: () => {
      saving.reset();
      return onSuccess();
    },
    networkMode: "always",
  });
  const instead = useMutation({ mutationFn: openSavedInstead, onSuccess: () => saving.reset(), networkMode: "always" });
  const health = useQuery({
    queryKey: ["health"],
    queryFn: api.health,
    refetchInterval: ASK_EVERY,
    retry: false,
    networkMode: "always",
  });
  const fault = saving.error ?? asNew.error ?? instead.error;
  const stale = saving.error instanceof ApiFault && saving.error.code === "stale";
  return {
    save: () => saving.mutate(),
    saveAsNew: () => asNew.mutate(),
    openSaved: () => instead.mutate(),
    forgive: () => saving.reset(),
    busy: saving.isPending || asNew.isPending,
    /** The server or its database does not answer. */
    away: health.isError || (saving.isError && isAway(saving.error) && !health.isSuccess),
    stale,
    /** Any other reason why the work could not be saved. */
    refusal: fault && !stale && !isAway(fault) ? fault.message : null,
  };
}
