/** One's own account: who one is here, what is shown, and one's password. */
import { api, type Account } from "../../api/client";
import { PageHead } from "../../shell/PageHead";
import { ROLES } from "../../text/words";
import { Sheet } from "../../ui/Sheet";
import { NewPassword } from "./NewPassword";
import { Units } from "./Units";

export function Me({ account }: { account: Account }) {
  return (
    <div className="flex h-full flex-col">
      <PageHead account={account} />
      <main className="min-h-0 grow overflow-y-auto p-4">
        <div className="mx-auto max-w-md">
          <h1 className="mb-3 text-lg font-bold">{account.name}</h1>
          <p className="mb-3 text-sm text-ink-2">
            Signs in as {account.sign_in}. {ROLES[account.role]}
          </p>
          {account.role !== "inspector" && (
            <Units
              title="Units you are shown"
              about="in every job you open"
              whose="own"
              set={api.setShown}
            />
          )}
          <Sheet
            title="Another password"
            aside="every other session of yours ends"
            className="mt-4"
          >
            <div className="p-4">
              <NewPassword
                withOld
                onSet={(fresh, old) => api.changePassword(old, fresh)}
                done="It is changed. Everywhere else you are signed out."
              />
            </div>
          </Sheet>
        </div>
      </main>
    </div>
  );
}
