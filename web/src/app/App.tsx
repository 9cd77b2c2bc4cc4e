import { type ComponentType, useEffect, useState } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { HandoutPage } from "./HandoutPage";
import { LicksPage } from "./LicksPage";
import { PlayersPage } from "./PlayersPage";
import { PracticePage } from "./PracticePage";
import { ShelfPage } from "./ShelfPage";

let bench: Promise<{ readonly BenchPage: ComponentType }> | null = null;
const loadBench = () => (bench ??= import("./BenchPage"));
// Where a solo's address is opened its page is fetched before anything is drawn.
if (window.location.pathname.startsWith("/solos/")) void loadBench();

const Unloaded = () => (
  <p role="alert" className="p-8">
    The server does not answer: the page could not be loaded.{" "}
    <a className="underline" href="">
      Try again
    </a>
  </p>
);

/** The bench, loaded when it is first asked for. React's own way holds what it shows meanwhile for a third of a second. */
function Bench() {
  const [Page, setPage] = useState<ComponentType | null>(null);
  useEffect(() => {
    loadBench().then(
      ({ BenchPage }) => setPage(() => BenchPage),
      () => {
        bench = null;
        setPage(() => Unloaded);
      },
    );
  }, []);
  return Page === null ? <p className="p-8 text-ink-2">One moment …</p> : <Page />;
}

export function App() {
  return (
    <BrowserRouter>
      <Routes>
        <Route path="/" element={<ShelfPage />} />
        <Route path="/licks" element={<LicksPage />} />
        <Route path="/handout/lick" element={<HandoutPage />} />
        <Route path="/handout/:soloId" element={<HandoutPage />} />
        <Route path="/practice/:soloId" element={<PracticePage />} />
        <Route path="/players" element={<PlayersPage />} />
        <Route path="/players/:playerId" element={<PlayersPage />} />
        <Route path="/solos/:soloId" element={<Bench />} />
        <Route path="/solos/:soloId/:stage" element={<Bench />} />
        <Route
          path="*"
          element={
            <p className="p-8">
              There is nothing at this address. The shelf is{" "}
              <a className="underline" href="/">
                here
              </a>
              .
            </p>
          }
        />
      </Routes>
    </BrowserRouter>
  );
}
