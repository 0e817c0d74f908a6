/** The tour: where each step is, and what to know there. */
export const STEPS: readonly { to: string; title: string; text: string }[] = [
  {
    to: "/import",
    title: "Bring your logs in",
    text: "Drop receiver logs on any page. Coombe finds the launches, roll-ons and stops in them, times each, and says how sure it is.",
  },
  {
    to: "/plans",
    title: "Plan a test",
    text: "Say what you want to know. Coombe works out how many runs it takes, in which order, and when to charge.",
  },
  {
    to: "/record",
    title: "Record at the strip",
    text: "One large word and one key: keep the run or void it. A simulated car lets you try it at your desk.",
  },
  {
    to: "/compare",
    title: "Get a verdict",
    text: "Before against after: a number, its interval, and whether it is the change or the weather, the battery or chance.",
  },
  {
    to: "/help",
    title: "Look it up",
    text: "The ? beside a word says what it means. Keys, words, formats and the method are all on this page.",
  },
];
