// What the scripts find in the browser beside its own: the libraries that a page loads, the events of htmx, and those
// that Rapzel's scripts and answers tell each other.

/** A request of htmx, as its events tell of it. */
interface HtmxDetail {
  elt: Element;
  xhr: XMLHttpRequest;
  path: string;
  verb: string;
  parameters: Record<string, any>;
  headers: Record<string, string>;
  requestConfig: { verb: string; parameters: Record<string, any>; formData: FormData };
  successful: boolean;
}
type HtmxEvent = CustomEvent<HtmxDetail>;

interface RapzelEvents {
  "rapzel:back": CustomEvent<void>; // logged in again
  "rapzel:changed": CustomEvent<{ fields: Record<string, string>; forced: string; rehearsal: string }>;
  "rapzel:door": CustomEvent<void>; // logged out
  "rapzel:drill": CustomEvent<{ instant: number }>;
  "rapzel:logged": CustomEvent<{ html: string; url: string }>;
  "rapzel:show": CustomEvent<HTMLElement>; // an input is to be shown and gone to
  "rapzel:refused": CustomEvent<{ key: string }>;
  "rapzel:revision": CustomEvent<{ revision: string }>;
  "rapzel:waiting": CustomEvent<void>; // tries in this browser
  "rapzel:edit": Event; // a handle has written into an input
}
interface HtmxEvents {
  "htmx:afterOnLoad": HtmxEvent;
  "htmx:afterRequest": HtmxEvent;
  "htmx:afterSettle": HtmxEvent;
  "htmx:beforeRequest": HtmxEvent;
  "htmx:beforeSwap": HtmxEvent;
  "htmx:configRequest": HtmxEvent;
  "htmx:responseError": HtmxEvent;
  "htmx:sendError": HtmxEvent;
  "htmx:timeout": HtmxEvent;
}
interface DocumentEventMap extends RapzelEvents, HtmxEvents {
  "alpine:init": Event;
}
interface HTMLElementEventMap extends HtmxEvents {}

declare const htmx: {
  trigger(element: Element, name: string): void;
  ajax(verb: string, address: string, how: object): Promise<void>;
  swap(target: string, html: string, how: { swapStyle: string }): void;
};

/** What Alpine gives to a component. Which elements a page names by x-ref, its template knows. */
interface AlpineMagics {
  $root: HTMLElement;
  $el: HTMLInputElement;
  $refs: Record<string, any>;
  $event: Event;
  $nextTick(then: () => void): void;
}
declare const Alpine: {
  data<Component extends object>(name: string, made: () => Component & ThisType<Component & AlpineMagics>): void;
};

/** The plot of a trace, as much of it as is used here. */
interface UPlotScale {
  min: number;
  max: number;
}
interface UPlot {
  over: HTMLElement;
  scales: Record<string, UPlotScale>;
  select: { left: number; width: number };
  ctx: CanvasRenderingContext2D;
  valToPos(value: number, scale: string): number;
  posToVal(place: number, scale: string): number;
  setSize(size: { width: number; height: number }): void;
  destroy(): void;
}
type UPlotTable = (number | null)[][];
declare const uPlot: {
  new (options: object, data: UPlotTable, target: HTMLElement): UPlot;
  join(tables: UPlotTable[]): UPlotTable;
};

/** Where a service worker runs, as much of it as is used here. */
interface LastingEvent extends MessageEvent {
  waitUntil(work: Promise<unknown>): void;
}
interface RequestEvent extends LastingEvent {
  request: Request;
  respondWith(answer: Promise<Response>): void;
}
interface ServiceWorkerScope {
  clients: { claim(): Promise<void> };
  skipWaiting(): void;
  addEventListener(name: "install" | "activate" | "message", listener: (event: LastingEvent) => void): void;
  addEventListener(name: "fetch", listener: (event: RequestEvent) => void): void;
}
