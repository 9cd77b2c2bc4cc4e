import "./app/styles.css";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";
import { dress } from "./score/look";
import { learnLayout } from "./score/hand";

dress();
void learnLayout();
const root = document.getElementById("root");
if (root !== null) createRoot(root).render(<App />);
