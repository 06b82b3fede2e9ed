/** Who makes prints: workers on this machine and others, what each is at, and how fast. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useWorkers } from "../api/queries";
import type { WorkerEntry } from "../api/types";
import { Section } from "../controls/Section";
import { rate } from "../shell/words";

export function WorkerSection() {
  const workers = useWorkers();
  const there = workers.data ?? [];
  return (
    <Section title="Workers">
      {workers.data && there.length === 0 && (
        <Typography variant="caption" color="error" component="p">
          Nobody is there to make prints: they wait in the queue.
        </Typography>
      )}
      <Box component="ul" aria-label="Workers" sx={{ m: 0, p: 0, listStyle: "none" }}>
        {there.map((worker) => (
          <Box component="li" key={worker.id} sx={{ display: "flex", gap: 1, py: 0.25, minWidth: 0 }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Typography variant="body2" noWrap title={worker.name}>
                {worker.name}
              </Typography>
              <Typography variant="caption" color="textSecondary" component="p" noWrap>
                {workOf(worker)}
              </Typography>
            </Box>
            <Typography variant="caption" color="textSecondary" sx={{ whiteSpace: "nowrap", pt: 0.25 }}>
              {speedOf(worker)}
            </Typography>
          </Box>
        ))}
      </Box>
    </Section>
  );
}

const KINDS: Record<string, string> = { stills: "stills alone", films: "films alone" };

function workOf({ print, helps, kinds }: WorkerEntry): string {
  const does = print === null ? "Nothing to do" : `${helps ? "Helps with" : "Makes"} print ${print}`;
  return KINDS[kinds] ? `${does} · ${KINDS[kinds]}` : does;
}

function speedOf({ threads, speed }: WorkerEntry): string {
  const wide = threads === 1 ? "1 thread" : `${threads} threads`;
  return speed > 0 ? `${rate(speed)} · ${wide}` : wide;
}
