/** How wide the ring of a clock is: on a phone it stands beside the buttons. */
export const RING = { xs: 150, sm: "clamp(min(220px, 21vh), 20vw, 440px)" };
