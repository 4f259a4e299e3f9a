/**
 * Data of a page for its island, written into the page once and apart from the island's element: as an attribute it would be escaped,
 * wrapped value by value, and read value by value by whoever opens the page. Seen from outside it has nothing but the id of
 * the element that holds it, which is all that is written as an attribute.
 */
export class Apart<T> {
  readonly $apart: string;
  readonly #value: T;

  constructor(id: string, value: T) {
    this.$apart = id;
    this.#value = value;
  }

  /** The data itself, while the page is made. */
  static valueOf(prop: unknown): unknown {
    return prop instanceof Apart ? (prop.#value as unknown) : prop;
  }
}

/** What a page holds of it: the id of its element, and the data as JSON that stands in HTML as it is. */
export interface ApartElement {
  id: string;
  json: string;
}

/**
 * Gives data to an island apart from its attributes. The page's frame writes it, before the island.
 *
 * @param locals what the request carries along
 * @param value what JSON can hold: no dates, maps or sets
 * @returns what is given to the island, which itself sees the value
 */
export function apart<T>(locals: { apart?: ApartElement[] }, value: T): T {
  const list = (locals.apart ??= []);
  const id = `data-${list.length + 1}`;
  // A text that ends a script would end this one.
  list.push({ id, json: JSON.stringify(value).replaceAll('<', String.raw`\u003c`) });
  return new Apart(id, value) as unknown as T;
}
