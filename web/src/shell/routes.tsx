// Every place and its address. The URL is the state: what is chosen is in it. A place is loaded when one goes there.
import { createBrowserRouter } from "react-router";
import { NotLoaded } from "./NotLoaded";
import { NotThere } from "./NotThere";
import { SignIn } from "./SignIn";

export const router = createBrowserRouter([
  { path: "/sign-in", element: <SignIn /> },
  { path: "/welcome", lazy: async () => ({ Component: (await import("./Welcome")).Welcome }) },
  {
    lazy: async () => ({ Component: (await import("./Shell")).Shell }),
    errorElement: <NotLoaded />,
    hydrateFallbackElement: <p role="status" className="p-5 text-sm text-ink2" />,
    children: [
      {
        errorElement: <NotLoaded />,
        children: [
          {
            path: "/define/compare",
            lazy: async () => ({ Component: (await import("../define/ComparePlace")).ComparePlace }),
          },
          {
            path: "/define/catalogue",
            lazy: async () => ({ Component: (await import("../define/CataloguePlace")).CataloguePlace }),
          },
          {
            path: "/define/kinds/:kind?",
            lazy: async () => ({ Component: (await import("../define/KindsPlace")).KindsPlace }),
          },
          {
            path: "/define/capability",
            lazy: async () => ({ Component: (await import("../define/CapabilityPlace")).CapabilityPlace }),
          },
          {
            path: "/define/:role?",
            lazy: async () => ({ Component: (await import("../define/DefinePlace")).DefinePlace }),
          },
          {
            path: "/assign/groups/:group?",
            lazy: async () => ({ Component: (await import("../assign/GroupsPlace")).GroupsPlace }),
          },
          {
            path: "/assign/requests/:request?",
            lazy: async () => ({ Component: (await import("../assign/RequestsPlace")).RequestsPlace }),
          },
          {
            path: "/assign/reviews/:review?",
            lazy: async () => ({ Component: (await import("../assign/ReviewsPlace")).ReviewsPlace }),
          },
          {
            path: "/assign/handing-out",
            lazy: async () => ({ Component: (await import("../assign/DelegationsPlace")).DelegationsPlace }),
          },
          {
            path: "/assign/mail",
            lazy: async () => ({ Component: (await import("../assign/MailPlace")).MailPlace }),
          },
          {
            path: "/assign/arrival",
            lazy: async () => ({ Component: (await import("../assign/ArrivalPlace")).ArrivalPlace }),
          },
          {
            path: "/reviews/:review?",
            lazy: async () => ({ Component: (await import("../assign/ReviewsPlace")).ReviewsPlace }),
          },
          {
            path: "/hand-out",
            lazy: async () => ({ Component: (await import("../handout/HandOutPlace")).HandOutPlace }),
          },
          {
            path: "/assign/new",
            lazy: async () => ({ Component: (await import("../assign/taking-on/TakeOnPlace")).TakeOnPlace }),
          },
          {
            path: "/assign/:account?",
            lazy: async () => ({ Component: (await import("../assign/AssignPlace")).AssignPlace }),
          },
          {
            path: "/limit",
            lazy: async () => ({ Component: (await import("../limit/LimitPlace")).LimitPlace }),
          },
          {
            path: "/verify/report",
            lazy: async () => ({ Component: (await import("../verify/report/ReportPlace")).ReportPlace }),
          },
          {
            path: "/verify",
            lazy: async () => ({ Component: (await import("../verify/VerifyPlace")).VerifyPlace }),
          },
          {
            path: "/walk/:list",
            lazy: async () => ({ Component: (await import("../verify/walks/WalkPlace")).WalkPlace }),
          },
          {
            path: "/why",
            lazy: async () => ({ Component: (await import("../verify/WhyPlace")).WhyPlace }),
          },
          {
            path: "/side-by-side",
            lazy: async () => ({ Component: (await import("../verify/SideBySidePlace")).SideBySidePlace }),
          },
          {
            path: "/desk/-/:part",
            lazy: async () => ({ Component: (await import("../desk/DeskPlace")).DeskPlace }),
          },
          {
            path: "/begin",
            lazy: async () => ({ Component: (await import("./Begin")).Begin }),
          },
          {
            path: "/desk/:node?",
            lazy: async () => ({ Component: (await import("../desk/DeskPlace")).DeskPlace }),
          },
          {
            path: "/ledger",
            lazy: async () => ({ Component: (await import("../ledger/LedgerPlace")).LedgerPlace }),
          },
          { path: "/me", lazy: async () => ({ Component: (await import("./Me")).Me }) },
          { path: "*", element: <NotThere /> },
        ],
      },
    ],
  },
]);
