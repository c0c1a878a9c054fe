import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useCrossOver, useRename } from "../api/gym";
import { useMe } from "../api/queries";
import { Form, Labelled } from "../ui/Form";
import { Problem } from "../ui/state";
import { say } from "../ui/toast";
import { Archives } from "./Archives";
import { Backups } from "./Backups";

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
      {me.data?.me && <TheGym key={me.data.me.gym} me={me.data.me} />}
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
      <Archives />
      <Backups />
    </div>
  );
}

/** What the gym is called and by which clock it lives; and the way to the demo gym, where there is one. */
function TheGym({ me }: { me: Schemas["Me"] }) {
  const [name, setName] = useState(me.gym);
  const [zone, setZone] = useState(me.time_zone);
  const rename = useRename();
  const cross = useCrossOver();
  return (
    <section aria-label="The gym">
      <p className="text-soft">{me.gym}</p>
      {(me.demo || me.other) && (
        <p className="mt-2">
          <button className="action min-h-11" disabled={cross.isPending} onClick={() => cross.mutate()}>
            {me.demo ? (me.other ? `To ${me.other}` : "Begin with an empty gym") : `To the demo gym, ${me.other}`}
          </button>
          <Problem error={cross.error} />
        </p>
      )}
      {!me.demo && (
        <Form submit="Keep it" busy={rename.isPending} error={rename.error} save={() => rename.mutate({ name, time_zone: zone }, { onSuccess: () => say({ text: "The gym is called so from now on." }) })} className="mt-6 space-y-3">
          <h2 className="wide-title text-lg">The gym</h2>
          <Labelled name="Its name" className="block">
            <input className="field w-full" required maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />
          </Labelled>
          <Labelled name="Its time zone" className="block">
            <select className="field w-full" value={zone} onChange={(e) => setZone(e.target.value)}>
              {[...new Set([me.time_zone, ...Intl.supportedValuesOf("timeZone")])].sort().map((z) => (
                <option key={z}>{z}</option>
              ))}
            </select>
          </Labelled>
        </Form>
      )}
    </section>
  );
}
