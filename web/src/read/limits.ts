/** What the floor-up view shows, milliseconds from contact, and by how much its cursor moves. */
export const FROM_MS = -450;
export const TO_MS = 480;
export const STEP_MS = 2;
export const LEAP_MS = 20;
