/** What is to be said, over the picture, until it is put away. */
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Stack from "@mui/material/Stack";
import { X } from "lucide-react";
import { useSlice, useWorkspace } from "../store/context";

function OpenIt({ project }: { project: number }) {
  return (
    <Button size="small" color="inherit" href={`#/projects/${project}`}>
      Open
    </Button>
  );
}

export function Notices() {
  const workspace = useWorkspace();
  const notices = useSlice((s) => s.notices);
  return (
    <Stack spacing={1} sx={{ position: "absolute", right: 12, bottom: 12, maxWidth: 380, zIndex: 2 }}>
      {notices.map((notice) => (
        <Alert
          key={notice.text}
          severity={notice.severity}
          action={
            <>
              {notice.project !== undefined && <OpenIt project={notice.project} />}
              <IconButton
                size="small"
                color="inherit"
                aria-label="Close"
                onClick={() => workspace.dismiss(notice)}
              >
                <X size={16} />
              </IconButton>
            </>
          }
          sx={{ overflowWrap: "anywhere" }}
        >
          {notice.text}
        </Alert>
      ))}
    </Stack>
  );
}
