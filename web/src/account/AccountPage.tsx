import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../api/client";
import { useMe } from "../api/queries";
import { Form } from "../ui/Form";
import { say } from "../ui/toast";

/** The coach's own sign-in. */
export function AccountPage() {
  const me = useMe();
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const change = useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/session/password", { body: { old, new: next } })),
    onSuccess: () => {
      setOld("");
      setNext("");
      say({ text: "The password is changed." });
    },
  });
  return (
    <div className="mx-auto max-w-md p-6">
      <h1 className="wide-title text-2xl">{me.data?.me?.name}</h1>
      <p className="text-soft">{me.data?.me?.gym}</p>
      <Form submit="Change it" busy={change.isPending} error={change.error} save={() => change.mutate()} className="mt-6 space-y-3">
        <h2 className="wide-title text-lg">Change the password</h2>
        <label className="block">
          <span className="mb-1 block">As it is</span>
          <input className="field w-full" type="password" autoComplete="current-password" required value={old} onChange={(e) => setOld(e.target.value)} />
        </label>
        <label className="block">
          <span className="mb-1 block">As it shall be: nine letters or more, no common word</span>
          <input className="field w-full" type="password" autoComplete="new-password" required value={next} onChange={(e) => setNext(e.target.value)} />
        </label>
      </Form>
    </div>
  );
}
