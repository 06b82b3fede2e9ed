/** None to five stars: pressing the one that is the last takes it away. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import { Star } from "lucide-react";

const FIVE = [1, 2, 3, 4, 5];

export function Stars({ value, onChange }: { value: number; onChange: (stars: number) => void }) {
  return (
    <Box sx={{ display: "flex" }} role="group" aria-label={`${value} of 5 stars`}>
      {FIVE.map((star) => (
        <IconButton
          key={star}
          size="small"
          aria-label={star === 1 ? "1 star" : `${star} stars`}
          aria-pressed={value >= star}
          onClick={() => onChange(value === star ? star - 1 : star)}
          sx={{ p: 0.625 }}
        >
          <Star
            size={14}
            fill={value >= star ? "#f2ece3" : "none"}
            color={value >= star ? "#f2ece3" : "#b5aea5"}
          />
        </IconButton>
      ))}
    </Box>
  );
}
