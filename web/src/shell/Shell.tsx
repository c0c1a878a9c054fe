import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { NavLink, Outlet, useLocation, useNavigate, useNavigation, useParams } from "react-router";
import { client } from "../api/client";
import { useMe, useStudents } from "../api/queries";
import { Failed, Loading } from "../ui/state";
import { useTheme, useUnits } from "../ui/settings";
import { Toast } from "../ui/toast";
import { forgetSeen, useOffline } from "./offline";
import { SignIn } from "./SignIn";

/** The order of the evening. */
const EVENING = [
  { part: "prepare", name: "Prepare" },
  { part: "measure", name: "Measure" },
  { part: "read", name: "Read" },
  { part: "compare", name: "Compare" },
  { part: "weeks", name: "Weeks" },
  { part: "plan", name: "Plan" },
];

export function Shell() {
  const me = useMe();
  const offline = useOffline();
  const coming = useNavigation().state !== "idle";
  if (me.isPending) return <Loading what="your gym" />;
  if (me.error) return <Failed error={me.error} retry={() => void me.refetch()} />;
  if (!me.data.me) return <SignIn />;
  const { gym, name } = me.data.me;
  return (
    <div className="flex h-full min-h-0 flex-col">
      <a href="#main" className="sr-only focus:not-sr-only focus:p-2">
        Skip to the page
      </a>
      <Top gym={gym} who={name} />
      {offline && (
        <p role="status" className="no-print border-b border-line bg-shade px-6 py-1">
          Offline: what was seen here last is shown. What you change waits for the network, or is refused.
        </p>
      )}
      {/* until the next page is there the last one can't be touched: its links are another student's */}
      <main id="main" inert={coming} aria-busy={coming} className={`min-h-0 flex-1 overflow-auto ${coming ? "opacity-60" : ""}`}>
        <Page />
      </main>
      <Toast />
    </div>
  );
}

const MEASURED = /\/(read|compare|weeks|force|report)$/; // pages of what was measured of a student

/** The page; of a child without a guardian's consent nothing measured is there, and instead of empty pages stands why. */
function Page() {
  const { studentId } = useParams();
  const { pathname } = useLocation();
  const student = useStudents().data?.find((s) => s.id === Number(studentId));
  if (!student?.stopped || !MEASURED.test(pathname)) return <Outlet />;
  return (
    <p role="note" className="mx-6 mt-4 max-w-3xl border-l-4 border-buoy pl-3">
      {student.stopped} Until then what was measured is kept, and neither shown nor handed out.{" "}
      <NavLink className="plain whitespace-nowrap" to={`/students/${student.id}`}>
        To {student.name}’s page
      </NavLink>
    </p>
  );
}

const LOG = "/log"; // of the student in its address, or of the gym

const GYM = [
  { to: "/bags", name: "Bags" },
  { to: "/class", name: "Class" },
  { to: "/students", name: "Students" },
  { to: LOG, name: "Log" },
  { to: "/kit", name: "Kit" },
  { to: "/playbook", name: "Playbook" },
];

const tab = ({ isActive }: { isActive: boolean }) =>
  `flex h-13 items-center border-b-3 px-1.5 hover:text-ink 2xl:px-2.5 ${isActive ? "border-buoy font-bold text-ink" : "border-transparent text-soft"}`;

function Top({ gym, who }: { gym: string; who: string }) {
  const { studentId } = useParams();
  const { pathname, search } = useLocation();
  const named = studentId ?? (pathname === LOG ? new URLSearchParams(search).get("student") : null);
  const chosen = named ?? sessionStorage.getItem("student") ?? undefined;
  if (named) sessionStorage.setItem("student", named);
  return (
    <header className="no-print flex min-h-13 shrink-0 flex-wrap items-stretch gap-x-4 border-b border-line px-4 sm:px-6">
      <span className="wide-title flex items-center text-base whitespace-nowrap" title={gym}>
        Agile Strike
      </span>
      <StudentChooser chosen={chosen} />
      {chosen && (
        <nav aria-label="This evening" className="flex max-md:order-last max-md:w-full max-md:justify-between">
          {EVENING.map(({ part, name }) => (
            <NavLink key={part} to={`/students/${chosen}/${part}`} className={tab}>
              {name}
            </NavLink>
          ))}
        </nav>
      )}
      <nav aria-label="The gym" className="ml-auto hidden md:flex">
        {GYM.map(({ to, name }) => (
          <NavLink key={to} to={to} end={to === "/students"} className={tab}>
            {name}
          </NavLink>
        ))}
      </nav>
      <Choices who={who} className="ml-auto hidden items-center gap-2 text-2xs whitespace-nowrap text-soft md:flex xl:ml-0" />
      <Folded who={who} />
    </header>
  );
}

/** On a phone all but the evening is behind one button. */
function Folded({ who }: { who: string }) {
  return (
    <Popover className="ml-auto flex items-center md:hidden">
      <PopoverButton className="action min-h-11">Menu</PopoverButton>
      <PopoverPanel anchor={{ to: "bottom end", gap: 6, padding: 8 }} className="z-40 w-60 rounded border border-line bg-raised p-3 shadow-lg">
        {({ close }) => (
          <>
            <nav aria-label="The gym" className="flex flex-col">
              {GYM.map(({ to, name }) => (
                <NavLink key={to} to={to} end={to === "/students"} className="flex min-h-11 items-center px-2 text-base font-semibold aria-[current=page]:border-l-3 aria-[current=page]:border-buoy" onClick={() => close()}>
                  {name}
                </NavLink>
              ))}
            </nav>
            <Choices who={who} gone={() => close()} className="mt-2 flex flex-wrap gap-x-4 border-t border-line pt-1 [&>*]:inline-flex [&>*]:min-h-11 [&>*]:items-center" />
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}

function StudentChooser({ chosen }: { chosen: string | undefined }) {
  const students = useStudents();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const part = /\/(prepare|measure|bring|read|compare|weeks|plan|report|force)$/.exec(pathname)?.[1];
  return (
    <select
      aria-label="Student"
      className="field my-2 w-36 font-semibold xl:w-40"
      value={chosen ?? ""}
      onChange={(e) => void navigate(pathname === LOG ? `${LOG}?student=${e.target.value}` : `/students/${e.target.value}${part ? `/${part}` : ""}`)}
    >
      {!chosen && <option value="">Choose a student</option>}
      {students.data?.filter((s) => !s.left_on || String(s.id) === chosen).map((s) => (
        <option key={s.id} value={s.id}>
          {s.name}
        </option>
      ))}
    </select>
  );
}

function Choices({ who, className, gone }: { who: string; className: string; gone?: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [units, setUnits] = useUnits();
  const [theme, setTheme] = useTheme();
  const signOut = async () => {
    await client.DELETE("/api/session");
    await forgetSeen();
    sessionStorage.clear();
    await navigate("/students");
    queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "me" });
    queries.setQueryData(["me"], { me: null });
  };
  return (
    <div className={className}>
      <button className="plain px-1 py-2" onClick={() => setUnits(units === "si" ? "us" : "si")}>
        {units === "si" ? "SI units" : "US units"}
      </button>
      <button className="plain px-1 py-2" onClick={() => setTheme(theme === "dark" ? "light" : "dark")}>
        {theme === "dark" ? "Dark" : "Light"}
      </button>
      <NavLink className="plain px-1 py-2" to="/account" onClick={gone} title={`Signed in as ${who}`}>
        Account
      </NavLink>
      <button className="plain px-1 py-2" title={`Signed in as ${who}`} onClick={() => void signOut()}>
        Sign out
      </button>
    </div>
  );
}
