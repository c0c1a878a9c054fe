export const VERDICTS: Record<string, string> = {
  clear: "clear",
  likely: "likely",
  no_difference: "no difference",
  not_settled: "not settled",
};

export const DECISIONS: Record<string, string> = {
  keep: "Keep it",
  drop: "Drop it",
  keep_testing: "Keep testing",
};
