/** How a unit is shown in the US system: its name, the factor from SI, and how many decimals fewer or more. */
export const US: Record<string, { unit: string; factor: number; decimals: number }> = {
  "N": {"unit": "lbf", "factor": 0.224809, "decimals": 0},
  "N s": {"unit": "lbf s", "factor": 0.224809, "decimals": 1},
  "m": {"unit": "in", "factor": 39.3701, "decimals": -1},
  "kg": {"unit": "lb", "factor": 2.20462, "decimals": 0},
  "J": {"unit": "ft lbf", "factor": 0.737562, "decimals": 0},
  "m/s": {"unit": "ft/s", "factor": 3.28084, "decimals": 0},
  "mm": {"unit": "in", "factor": 0.0393701, "decimals": 1},
};
