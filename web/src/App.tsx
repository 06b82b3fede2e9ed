/** Which of the three screens is shown: sign-in, the projects, or one open project. The address says which, and where. */
import { QueryClientProvider } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { Route, Router, Switch, useLocation } from "wouter";
import { useHashLocation } from "wouter/use-hash-location";
import { api, SIGNED_OUT } from "./api/client";
import { queryClient } from "./api/queries";
import type { Session } from "./api/types";
import { Home } from "./home/Home";
import { SignIn } from "./home/SignIn";
import { OpenProject } from "./shell/OpenProject";

const NOBODY: Session = { csrf_token: "", may_invite: false };
const INVITED = /^\/invited\/([\w-]+)$/;

export function App() {
  return (
    <QueryClientProvider client={queryClient}>
      <Router hook={useHashLocation}>
        <Screens />
      </Router>
    </QueryClientProvider>
  );
}

function Screens() {
  const [address, navigate] = useLocation();
  const [session, setSession] = useState<Session | undefined>(undefined);

  const leave = useCallback(() => {
    queryClient.clear(); // what one person has seen is not for the next
    setSession(NOBODY);
  }, []);
  useEffect(() => {
    api.session().then(setSession, () => setSession(NOBODY));
    addEventListener(SIGNED_OUT, leave);
    return () => removeEventListener(SIGNED_OUT, leave);
  }, [leave]);

  /** After signing in, the newest project opens at once. */
  const signedIn = useCallback(
    async (entered: Session) => {
      const isOpen = address.startsWith("/projects/");
      const [newest] = isOpen ? [] : await api.newestProjects();
      setSession(entered);
      if (!isOpen) navigate(newest ? `/projects/${newest.id}` : "/", { replace: true });
    },
    [address, navigate],
  );

  if (session === undefined) return null;
  const { username, may_invite: mayInvite } = session;
  if (!username) return <SignIn token={INVITED.exec(address)?.[1] ?? null} onSignedIn={signedIn} />;
  return (
    <Switch>
      <Route path="/projects/:id/:stop?">
        {({ id, stop }) => (
          <OpenProject key={id} id={Number(id)} stopInAddress={stop} onLeave={() => navigate("/")} />
        )}
      </Route>
      <Route>
        <Home
          username={username}
          mayInvite={mayInvite}
          onOpen={(id) => navigate(`/projects/${id}`)}
          onSignedOut={leave}
        />
      </Route>
    </Switch>
  );
}
