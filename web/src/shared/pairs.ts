/** Two numbers a line, as they are typed or pasted. What is no number goes to the server, which refuses and names it. */
export function pairsOf(text: string): [number, number][] {
  return text
    .split("\n")
    .filter((line) => line.trim())
    .map((line) => {
      const [first, second] = line.split(/[,;\t]/).map(Number);
      return [first ?? NaN, second ?? NaN];
    });
}
