/** Which of the three screens is shown: sign-in, the projects, or one open project. The address says which project. */
import { useCallback, useEffect, useState } from "react";
import { api } from "./api/client";
import { Home } from "./home/Home";
import { SignIn } from "./home/SignIn";
import { OpenProject } from "./shell/OpenProject";

const projectInAddress = () => {
  const match = /^#\/projects\/(\d+)$/.exec(location.hash);
  return match ? Number(match[1]) : null;
};

export function App() {
  const [username, setUsername] = useState<string | null | undefined>(undefined);
  const [project, setProject] = useState(projectInAddress);

  useEffect(() => {
    api.session().then(
      (session) => setUsername(session.username ?? null),
      () => setUsername(null),
    );
    const onHash = () => setProject(projectInAddress());
    addEventListener("hashchange", onHash);
    return () => removeEventListener("hashchange", onHash);
  }, []);

  const open = useCallback((id: number | null) => {
    location.hash = id === null ? "" : `/projects/${id}`;
  }, []);

  /** After signing in, the newest project opens at once. */
  const signedIn = useCallback(
    async (name: string) => {
      const [newest] = projectInAddress() === null ? await api.projects() : [];
      setUsername(name);
      if (newest) open(newest.id);
    },
    [open],
  );

  if (username === undefined) return null;
  if (username === null) return <SignIn onSignedIn={signedIn} />;
  if (project === null)
    return <Home username={username} onOpen={open} onSignedOut={() => setUsername(null)} />;
  return <OpenProject key={project} id={project} onLeave={() => open(null)} />;
}
