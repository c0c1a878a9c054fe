import { useAddress } from "../ui/address";

/** What of the compare page is in its address. */
export interface View {
  trial: number | undefined;
  everybody: boolean;
  measure: string;
  levels: string;
  worth: number | undefined;
  only: string;
}

export function useView() {
  return useAddress(read);
}

function read(params: URLSearchParams): View {
  const number = (key: string) => (params.get(key) ? Number(params.get(key)) : undefined);
  return {
    trial: number("trial"),
    everybody: params.get("everybody") === "1",
    measure: params.get("measure") ?? "",
    levels: params.get("levels") ?? "",
    worth: number("worth"),
    only: params.get("only") ?? "",
  };
}
