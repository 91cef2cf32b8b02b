/** Where a link leads that an owner made: a new password, set once. */
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { Brand } from "../../shell/Brand";
import { NewPassword } from "./NewPassword";

/** The address of the page for a link's token. */
export const linkTo = (token: string): string => `${window.location.origin}/password#${token}`;

export function SetPassword() {
  const [token] = useState(() => window.location.hash.slice(1));
  useEffect(() => {
    // Out of the address: it serves whoever has it.
    window.history.replaceState(null, "", "/password");
  }, []);
  return (
    <main className="grid h-full place-items-center bg-slate p-4">
      <div className="w-full max-w-sm rounded-lg bg-sheet p-6">
        <h1 className="mb-3 flex items-center gap-2 text-lg font-bold">
          <Brand /> A new password
        </h1>
        <NewPassword
          onSet={(fresh) => api.resetPassword(token, fresh)}
          done="It is set. Sign in with it."
        />
        <a className="mt-4 block text-sm text-copper underline" href="/">
          To the sign-in
        </a>
      </div>
    </main>
  );
}
