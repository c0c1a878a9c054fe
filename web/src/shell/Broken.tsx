import { Link, useRouteError } from "react-router";

/** A page that is not there, or one that failed. */
export function Broken({ lost = false }: { lost?: boolean }) {
  const error = useRouteError();
  return (
    <main className="p-8">
      <h1 className="wide-title text-xl">{lost ? "There is no such page" : "This page failed"}</h1>
      <p className="mt-2 max-w-lg text-soft">
        {lost ? "The address may be old." : error instanceof Error ? error.message : "Reload it; if it fails again, tell your head coach."}
      </p>
      <Link className="plain mt-4 inline-block font-semibold" to="/students">
        To the students
      </Link>
    </main>
  );
}
