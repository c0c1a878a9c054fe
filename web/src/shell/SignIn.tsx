import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../api/client";
import { Problem } from "../ui/state";
import { Labelled } from "../ui/Form";
import { forgetSeen } from "./offline";

export function SignIn() {
  const [user, setUser] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const signIn = useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/session", { body: { user, password } })),
    onSuccess: async (me) => {
      await forgetSeen(); // of whoever was here before
      queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "me" });
      queries.setQueryData(["me"], { me });
      void queries.invalidateQueries({ queryKey: ["me"] }); // what the browser keeps for offline is who signed in
    },
  });
  return (
    <main className="grid min-h-full place-items-center p-6">
      <form
        className="w-full max-w-sm space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          signIn.mutate();
        }}
      >
        <h1 className="wide-title text-3xl">Agile Strike</h1>
        <p className="text-soft">Sign in to your gym.</p>
        <Labelled name="Name" className="block">
          <input className="field w-full" autoComplete="username" autoFocus required value={user} onChange={(e) => setUser(e.target.value)} />
        </Labelled>
        <Labelled name="Password" className="block">
          <input className="field w-full" type="password" autoComplete="current-password" required value={password} onChange={(e) => setPassword(e.target.value)} />
        </Labelled>
        <Problem error={signIn.error} />
        <button className="action-main w-full" disabled={signIn.isPending}>
          {signIn.isPending ? "Signing in …" : "Sign in"}
        </button>
      </form>
    </main>
  );
}
