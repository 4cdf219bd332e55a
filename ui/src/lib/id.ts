// newId makes the id that a write carries. crypto.randomUUID exists only on https
// and localhost, and a shop's phone comes in over plain http.
export function newId(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('');
}
