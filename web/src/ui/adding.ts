import { useIsMutating } from "@tanstack/react-query";

/** Of mutations that add something to the gym which a form is about to hold. */
export const ADDING = ["adding"];

/** Whether something that was chosen is still being added: what is saved meanwhile would hold what was chosen before. */
export function useAdding(): boolean {
  return useIsMutating({ mutationKey: ADDING }) > 0;
}
