/** One's own account: who one is here, and one's password. */
import { Link } from "react-router";
import { api, type Account } from "../../api/client";
import { ROLES } from "../../text/words";
import { Sheet } from "../../ui/Sheet";
import { NewPassword } from "./NewPassword";

export function Me({ account }: { account: Account }) {
  return (
    <main className="mx-auto max-w-md p-4">
      <Link to="/jobs" className="text-sm text-copper underline">
        All jobs
      </Link>
      <h1 className="my-3 text-lg font-bold">{account.name}</h1>
      <p className="mb-3 text-sm text-ink-2">
        Signs in as {account.sign_in}. {ROLES[account.role]}
      </p>
      <Sheet title="Another password" aside="every other session of yours ends">
        <div className="p-4">
          <NewPassword
            withOld
            onSet={(fresh, old) => api.changePassword(old, fresh)}
            done="It is changed. Everywhere else you are signed out."
          />
        </div>
      </Sheet>
    </main>
  );
}
