/** The place of the sun by the name of a city. */
import Autocomplete from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { CityEntry } from "../api/types";
import { described } from "../controls/fields";
import { useScene, useWorkspace } from "../store/context";
import { replace } from "../store/patch";

const REST_MS = 200;
const NOWHERE = described("SunPlace", "name").default;
const NONE: readonly CityEntry[] = [];

export function CityField() {
  const workspace = useWorkspace();
  const place = useScene((s) => s.sky.place!);
  const [words, setWords] = useState("");
  const [found, setFound] = useState<readonly CityEntry[] | null>(NONE);
  useEffect(() => {
    if (!words.trim()) {
      setFound(NONE);
      return;
    }
    let isOver = false;
    setFound(null);
    const rest = setTimeout(() => {
      api.cities(words, place.date!).then(
        (cities) => !isOver && setFound(cities),
        (error: Error) => workspace.notify({ severity: "error", text: error.message }),
      );
    }, REST_MS);
    return () => {
      isOver = true;
      clearTimeout(rest);
    };
  }, [workspace, words, place.date]);
  const choose = (city: CityEntry) => {
    const { name, latitude, longitude, zone } = city;
    workspace.commit(
      [replace("/sky/place", { ...place, name, latitude, longitude, zone })],
      `Sun of ${name}`,
    );
    setWords("");
  };
  return (
    <Autocomplete
      size="small"
      options={found ?? NONE}
      loading={found === null}
      loadingText="Looking…"
      // The server has chosen already.
      filterOptions={(all) => all}
      getOptionLabel={(city) => city.name}
      getOptionKey={({ name, latitude, longitude }) => `${name} ${latitude} ${longitude}`}
      isOptionEqualToValue={(a, b) => a.latitude === b.latitude && a.longitude === b.longitude}
      value={null}
      inputValue={words}
      onInputChange={(_, text, reason) => reason !== "reset" && setWords(text)}
      onChange={(_, city) => city && choose(city)}
      noOptionsText={words ? "No city of that name" : "Type the name of a city"}
      renderOption={({ key, ...props }, { name, country }) => (
        <li key={key} {...props}>
          <span>
            {name}{" "}
            <Typography component="span" variant="caption" color="textSecondary">
              {country}
            </Typography>
          </span>
        </li>
      )}
      renderInput={(params) => (
        <TextField
          {...params}
          label={place.name === NOWHERE ? "City" : `City: ${place.name}`}
          sx={{ my: 0.75 }}
        />
      )}
    />
  );
}
