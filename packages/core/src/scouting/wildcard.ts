/**
 * Whether a text has a form that a person wrote, in which `*` stands for any number of characters. The text may be a
 * tenant's: the pieces between the stars are found one after the other, each as far left as it stands, so that nothing is
 * ever tried twice, whatever both of them wrote.
 */
export function wildcard(form: string): (text: string) => boolean {
  const [first = '', ...rest] = form.split('*');
  const last = rest.pop();
  if (last === undefined) return (text) => text === first;
  const pieces = rest.filter((piece) => piece !== '');
  return (text) => {
    if (text.length < first.length + last.length || !text.startsWith(first) || !text.endsWith(last)) return false;
    const end = text.length - last.length;
    let at = first.length;
    for (const piece of pieces) {
      const found = text.indexOf(piece, at);
      if (found < 0 || found + piece.length > end) return false;
      at = found + piece.length;
    }
    return true;
  };
}
