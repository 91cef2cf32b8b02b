/** Who is signed in decides what there is: the sign-in, the jobs, one job's stages. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback } from "react";
import { Navigate, Route, Routes, useLocation, useParams } from "react-router";
import { api, Refused, type Account } from "./api/client";
import { useFocusKept } from "./shell/useFocusKept";
import { useEvents, type Heard } from "./shell/useEvents";
import { Notice } from "./shell/Notice";
import { SignIn } from "./shell/SignIn";
import { Workbench } from "./shell/Workbench";
import { useTheme } from "./shell/useTheme";
import { Jobs } from "./stages/jobs/Jobs";
import { STAGES } from "./stages/registry";

// Pages beside the jobs come when they are opened: the first screen does not wait for them.
const Library = lazy(async () => ({
  default: (await import("./stages/library/Library")).Library,
}));
const Me = lazy(async () => ({ default: (await import("./stages/people/Me")).Me }));
const Prices = lazy(async () => ({ default: (await import("./stages/prices/Prices")).Prices }));
const People = lazy(async () => ({ default: (await import("./stages/people/People")).People }));
const LookAtJob = lazy(async () => ({
  default: (await import("./stages/people/LookAtJob")).LookAtJob,
}));
const SetPassword = lazy(async () => ({
  default: (await import("./stages/people/SetPassword")).SetPassword,
}));
const Sums = lazy(async () => ({ default: (await import("./stages/sums/Sums")).Sums }));

export function App() {
  useTheme();
  useFocusKept();
  const session = useQuery({
    queryKey: ["session"],
    queryFn: api.who,
    retry: (_, e) => !(e instanceof Refused),
    staleTime: Infinity,
  });
  const { pathname } = useLocation();
  if (pathname === "/password")
    return (
      <Suspense fallback={<Notice text="Opening" />}>
        <SetPassword />
      </Suspense>
    );
  if (pathname === "/look")
    return (
      <Suspense fallback={<Notice text="Opening" />}>
        <LookAtJob />
      </Suspense>
    );
  if (session.data) return <SignedIn account={session.data} />;
  if (session.error instanceof Refused) return <SignIn />;
  return (
    <Notice
      text={session.failureCount > 0 ? "The server does not answer. It is tried again." : "Opening"}
    />
  );
}

function SignedIn({ account }: { account: Account }) {
  const queries = useQueryClient();
  useEvents(
    useCallback(
      (heard: Heard) => {
        if (heard.what !== "pack") void queries.invalidateQueries({ queryKey: ["jobs"] });
      },
      [queries],
    ),
  );
  return (
    <Suspense fallback={<Notice text="Opening" />}>
      <Routes>
        <Route path="/jobs" element={<Jobs account={account} />} />
        <Route path="/sums" element={<Sums account={account} />} />
        <Route path="/sums/:school/:name" element={<Sums account={account} />} />
        <Route path="/library" element={<Library account={account} />} />
        <Route
          path="/people"
          element={
            account.role === "owner" ? (
              <People account={account} />
            ) : (
              <Navigate to="/jobs" replace />
            )
          }
        />
        <Route
          path="/prices"
          element={
            account.role === "inspector" ? (
              <Navigate to="/jobs" replace />
            ) : (
              <Prices account={account} />
            )
          }
        />
        <Route path="/me" element={<Me account={account} />} />
        <Route path="/jobs/:id/:stage" element={<OneJob account={account} />} />
        <Route path="*" element={<Navigate to="/jobs" replace />} />
      </Routes>
    </Suspense>
  );
}

function OneJob({ account }: { account: Account }) {
  const { id = "" } = useParams();
  // Keyed by the job: another job is another editor.
  return <Workbench key={id} id={id} account={account} stages={STAGES} />;
}
