import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { ShelfPage } from "./ShelfPage";

const BenchPage = lazy(() => import("./BenchPage").then((module) => ({ default: module.BenchPage })));

export function App() {
  return (
    <BrowserRouter>
      <Suspense fallback={<p className="p-8 text-ink-2">One moment …</p>}>
        <Routes>
          <Route path="/" element={<ShelfPage />} />
          <Route path="/solos/:soloId" element={<BenchPage />} />
          <Route path="/solos/:soloId/:stage" element={<BenchPage />} />
          <Route path="*" element={<p className="p-8">There is nothing at this address. The shelf is <a className="underline" href="/">here</a>.</p>} />
        </Routes>
      </Suspense>
    </BrowserRouter>
  );
}
