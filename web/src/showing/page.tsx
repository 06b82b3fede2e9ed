/** The page of a showing: for whoever has its link, or its file. */
import "@fontsource-variable/figtree/wght.css";
import "@fontsource-variable/fraunces/wght.css";
import "./showing.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Door } from "./Door";

const root = document.getElementById("root");
if (!root) throw new Error("the page has no #root");
createRoot(root).render(
  <StrictMode>
    <Door />
  </StrictMode>,
);
