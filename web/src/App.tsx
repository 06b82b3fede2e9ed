/** Which of the three screens is shown: sign-in, the projects, or one open project. The address says which project. */
import { useCallback, useEffect, useState } from "react";
import { api, SIGNED_OUT } from "./api/client";
import type { Session } from "./api/types";
import { Home } from "./home/Home";
import { SignIn } from "./home/SignIn";
import { OpenProject } from "./shell/OpenProject";

const NOBODY: Session = { csrf_token: "", may_invite: false };

const invitationInAddress = () => /^#\/invited\/([\w-]+)$/.exec(location.hash)?.[1] ?? null;

const projectInAddress = () => {
  const match = /^#\/projects\/(\d+)$/.exec(location.hash);
  return match ? Number(match[1]) : null;
};

export function App() {
  const [session, setSession] = useState<Session | undefined>(undefined);
  const [project, setProject] = useState(projectInAddress);
  const [invitation, setInvitation] = useState(invitationInAddress);

  useEffect(() => {
    api.session().then(setSession, () => setSession(NOBODY));
    const onHash = () => {
      setProject(projectInAddress());
      setInvitation(invitationInAddress());
    };
    const onSignedOut = () => setSession(NOBODY);
    addEventListener("hashchange", onHash);
    addEventListener(SIGNED_OUT, onSignedOut);
    return () => {
      removeEventListener("hashchange", onHash);
      removeEventListener(SIGNED_OUT, onSignedOut);
    };
  }, []);

  const open = useCallback((id: number | null) => {
    location.hash = id === null ? "" : `/projects/${id}`;
  }, []);

  /** After signing in, the newest project opens at once. */
  const signedIn = useCallback(
    async (entered: Session) => {
      if (invitationInAddress() !== null) open(null);
      const [newest] = projectInAddress() === null ? await api.newestProjects() : [];
      setSession(entered);
      if (newest) open(newest.id);
    },
    [open],
  );

  if (session === undefined) return null;
  const { username } = session;
  if (!username) return <SignIn token={invitation} onSignedIn={signedIn} />;
  if (project === null)
    return (
      <Home
        username={username}
        mayInvite={session.may_invite}
        onOpen={open}
        onSignedOut={() => setSession(NOBODY)}
      />
    );
  return <OpenProject key={project} id={project} onLeave={() => open(null)} />;
}
