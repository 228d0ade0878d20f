import { lazy, Suspense } from "react";
import { Navigate, Outlet, Route, Routes, useLocation } from "react-router";
import { Refused } from "./api/client";
import { HorizonPage } from "./horizon/HorizonPage";
import { useLive } from "./shared/live";
import { Mishap } from "./shared/Mishap";
import { Page } from "./shared/Page";
import { useMe } from "./shared/queries";
import { Nothing, Standing } from "./shared/Standing";
import { TopBar } from "./shared/TopBar";
import { Reset } from "./signin/Reset";
import { SignIn } from "./signin/SignIn";

// Everything but the first screen is loaded when it is first needed.
const DeskPage = lazy(() => import("./desk/DeskPage"));
const ReadingPage = lazy(() => import("./reading/ReadingPage"));
const OwnCheckPage = lazy(() => import("./reading/OwnCheckPage"));
const LedgerPage = lazy(() => import("./ledger/LedgerPage"));
const ReceiptPage = lazy(() => import("./ledger/ReceiptPage"));
const LibraryPage = lazy(() => import("./library/LibraryPage"));
const VersionPage = lazy(() => import("./library/VersionPage"));
const AddPage = lazy(() => import("./add/AddPage"));
const ChangePage = lazy(() => import("./add/ChangePage"));
const PlanPage = lazy(() => import("./plan/PlanPage"));
const WeekPage = lazy(() => import("./week/WeekPage"));
const CalendarsPage = lazy(() => import("./calendars/CalendarsPage"));
const SettingsPage = lazy(() => import("./settings/SettingsPage"));
const AccountPage = lazy(() => import("./account/AccountPage"));
const WorkshopPage = lazy(() => import("./workshop/WorkshopPage"));
const PhonePage = lazy(() => import("./phone/PhonePage"));
const CoursesPage = lazy(() => import("./courses/CoursesPage"));

function SignedIn() {
  const me = useMe();
  const from = useLocation();
  if (me.error instanceof Refused && me.error.status === 401)
    return <Navigate to="/signin" state={{ from: from.pathname }} replace />;
  return <Standing query={me}>{() => <Frame />}</Standing>;
}

function Frame() {
  useLive();
  return (
    <>
      <TopBar />
      <Page>
        <Mishap key={useLocation().pathname}>
          <Suspense
            fallback={
              <p className="soft" style={{ padding: 20 }}>
                Reading…
              </p>
            }
          >
            <Outlet />
          </Suspense>
        </Mishap>
      </Page>
    </>
  );
}

export function App() {
  return (
    <Routes>
      <Route path="/signin" element={<SignIn />} />
      <Route path="/reset" element={<Reset />} />
      <Route
        path="/phone/:token"
        element={
          <Suspense>
            <PhonePage />
          </Suspense>
        }
      />
      <Route element={<SignedIn />}>
        <Route index element={<HorizonPage />} />
        <Route path="desk/:id" element={<DeskPage />} />
        <Route path="desk/:id/workshop" element={<WorkshopPage />} />
        <Route path="desk/:id/check" element={<OwnCheckPage />} />
        <Route path="desk/:id/change" element={<ChangePage />} />
        <Route path="add" element={<AddPage />} />
        <Route path="plan" element={<PlanPage />} />
        <Route path="week" element={<WeekPage />} />
        <Route path="calendars" element={<CalendarsPage />} />
        <Route path="account" element={<AccountPage />} />
        <Route path="settings" element={<SettingsPage />} />
        <Route path="reading/:id" element={<ReadingPage />} />
        <Route path="ledger" element={<LedgerPage />} />
        <Route path="ledger/:id" element={<ReceiptPage />} />
        <Route path="library" element={<LibraryPage />} />
        <Route path="library/:id" element={<VersionPage />} />
        <Route path="courses" element={<CoursesPage />} />
        <Route
          path="*"
          element={
            <Nothing title="There is no such page">
              Choose one of the places above, or search with /.
            </Nothing>
          }
        />
      </Route>
    </Routes>
  );
}
