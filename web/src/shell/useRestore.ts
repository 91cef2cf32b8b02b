/** Restoring an earlier revision: an edit like any other, which undo takes back. */
import { api } from "../api/client";
import { useBench } from "./bench";

/** The effect; none for somebody who does not plan. */
export function useRestore(): ((revision: number) => Promise<void>) | null {
  const { newest, look, account } = useBench();
  if (account.role !== "owner" && account.role !== "designer") return null;
  return async (revision) => {
    const { job, library } = await api.revision(newest.get().view.id, revision);
    look(null);
    newest.edit(() => ({ job, library }));
  };
}
