/** What is said of a take: note, stars, labels, board, comments; and restoring what made it. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { takes as kept } from "../api/takes";
import type { Area, TakeEntry } from "../api/types";
import { useWorkspace } from "../store/context";
import { hourOf, restore, useSaid, useTakeChange } from "./keeping";
import { Stars } from "./Stars";

const AREAS: readonly [Area, string][] = [
  ["asset", "Parts"],
  ["materials", "Materials"],
  ["light", "Light"],
  ["camera", "Camera"],
  ["look", "Look"],
];

export function Said({ take }: { take: TakeEntry }) {
  const workspace = useWorkspace();
  const said = useSaid(workspace, take.id);
  const noise = take.noise === null ? "" : `, noise ${(100 * take.noise).toPrecision(2)} %`;
  return (
    <Box
      component="aside"
      aria-label="What is said of it"
      sx={{ width: 264, flexShrink: 0, bgcolor: "background.paper", overflowY: "auto", p: 1.5 }}
    >
      <Stars value={take.stars} onChange={(stars) => said.mutate({ stars })} />
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 1 }}>
        {take.width} × {take.height}, {take.samples} samples{noise}
        {take.film_bytes && `, with its film (${Math.ceil(take.film_bytes / 1e6)} MB)`}
        {take.author && `, kept by ${take.author}`}
      </Typography>
      <Line label="Note" value={take.note} many onChange={(note) => said.mutate({ note })} />
      <Line
        label="Labels, with commas between"
        value={take.labels.join(", ")}
        onChange={(text) => said.mutate({ labels: text.split(",") })}
      />
      <Line label="Board" value={take.board} onChange={(board) => said.mutate({ board })} />
      <Typography component="h3" variant="body2" sx={{ fontWeight: 600, mt: 1.5, mb: 0.5 }}>
        Make it as it was
      </Typography>
      <Button fullWidth size="small" variant="contained" onClick={() => void restore(workspace, take)}>
        Restore everything
      </Button>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, mt: 0.5 }}>
        {AREAS.map(([area, word]) => (
          <Button
            key={area}
            size="small"
            variant="outlined"
            aria-label={`${word} as in this take`}
            onClick={() => void restore(workspace, take, [area])}
          >
            {word}
          </Button>
        ))}
      </Box>
      <Comments take={take} />
    </Box>
  );
}

interface LineProps {
  label: string;
  value: string;
  many?: boolean;
  onChange: (value: string) => void;
}

/** Words that are kept when the hand leaves them. */
function Line({ label, value, many = false, onChange }: LineProps) {
  const [text, setText] = useState(value);
  return (
    <TextField
      fullWidth
      size="small"
      label={label}
      value={text}
      multiline={many}
      {...(many && { minRows: 2, maxRows: 6 })}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text !== value && onChange(text)}
      sx={{ mb: 1.5 }}
    />
  );
}

function Comments({ take }: { take: TakeEntry }) {
  const workspace = useWorkspace();
  const [text, setText] = useState("");
  const [answered, setAnswered] = useState<number | null>(null);
  const saying = useTakeChange<string>(workspace, (words) => kept.say(take.id, words, answered));
  const say = () => {
    saying.mutate(text);
    setText("");
    setAnswered(null);
  };
  const threads = take.comments.filter((each) => each.answers === null);
  return (
    <Box component="section" aria-label="Comments" sx={{ mt: 1.5 }}>
      <Typography component="h3" variant="body2" sx={{ fontWeight: 600, mb: 0.5 }}>
        Comments
      </Typography>
      {threads.map((first) => (
        <Box key={first.id} sx={{ mb: 1 }}>
          {[first, ...take.comments.filter((each) => each.answers === first.id)].map((each) => (
            <Typography key={each.id} variant="caption" component="p" sx={{ pl: each === first ? 0 : 1.5 }}>
              <b>{each.author}</b>
              {each.is_visitor && ", visitor"}, {hourOf(each.created)}: {each.text}
            </Typography>
          ))}
          <Button size="small" sx={{ py: 0, minWidth: 0 }} onClick={() => setAnswered(first.id)}>
            Answer
          </Button>
        </Box>
      ))}
      <TextField
        fullWidth
        size="small"
        multiline
        maxRows={5}
        label={answered === null ? "Say something" : "Your answer"}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button size="small" disabled={!text.trim()} onClick={say} sx={{ mt: 0.5 }}>
        Send
      </Button>
    </Box>
  );
}
