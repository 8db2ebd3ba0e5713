// Every place and its address. The URL is the state: what is chosen is in it.
import { createBrowserRouter, Navigate } from "react-router";
import { AssignPlace } from "../assign/AssignPlace";
import { CapabilityPlace } from "../define/CapabilityPlace";
import { CataloguePlace } from "../define/CataloguePlace";
import { ComparePlace } from "../define/ComparePlace";
import { DefinePlace } from "../define/DefinePlace";
import { DeskPlace } from "../desk/DeskPlace";
import { LedgerPlace } from "../ledger/LedgerPlace";
import { LimitPlace } from "../limit/LimitPlace";
import { VerifyPlace } from "../verify/VerifyPlace";
import { Shell } from "./Shell";
import { SignIn } from "./SignIn";

export const router = createBrowserRouter([
  { path: "/sign-in", element: <SignIn /> },
  {
    element: <Shell />,
    children: [
      { path: "/define/compare", element: <ComparePlace /> },
      { path: "/define/catalogue", element: <CataloguePlace /> },
      { path: "/define/capability", element: <CapabilityPlace /> },
      { path: "/define/:role?", element: <DefinePlace /> },
      { path: "/assign/:account?", element: <AssignPlace /> },
      { path: "/limit", element: <LimitPlace /> },
      { path: "/verify", element: <VerifyPlace /> },
      { path: "/desk/:node?", element: <DeskPlace /> },
      { path: "/ledger", element: <LedgerPlace /> },
      { path: "*", element: <Navigate to="/define" replace /> },
    ],
  },
]);
