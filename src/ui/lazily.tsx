import { startTransition, useEffect, useRef, useState, type ComponentType, type RefObject } from 'react';
import { Notice } from './Notice.tsx';
import { useMadeHere } from './useAwake.ts';

const Missing = () => (
  <Notice tone="error">
    This part of the page could not be fetched. Reload the page once you have a connection.
  </Notice>
);

/** How far below the edge of the window a field may be and is fetched nevertheless, so that nobody scrolls to it in vain. */
const NEAR_PX = 150;
/** What tells that the page is in use: from then on a field may be reached by the keyboard without being scrolled to. */
const USES = ['pointerdown', 'keydown'] as const;
let inUse = false;
if (typeof window !== 'undefined')
  for (const use of USES) addEventListener(use, () => (inUse = true), { capture: true, once: true });

/** Calls back once, when something comes near the window or the page is used. */
function whenNear(element: Element | null, then: () => void): () => void {
  if (!element || inUse) {
    then();
    return () => undefined;
  }
  const watch = new IntersectionObserver(
    (entries) => {
      if (entries.some((entry) => entry.isIntersecting)) once();
    },
    { rootMargin: `${NEAR_PX}px` },
  );
  const end = (): void => {
    watch.disconnect();
    for (const use of USES) removeEventListener(use, once);
  };
  const once = (): void => {
    end();
    then();
  };
  watch.observe(element);
  for (const use of USES) addEventListener(use, once);
  return end;
}

/**
 * A component whose script is fetched when it is first shown: what most readers of a page never open costs them nothing.
 * Where it cannot be fetched, the page says so and goes on. The page is sent with what stands in its place, and so is every
 * page after it.
 *
 * @param Meanwhile what stands in its place until it has come: one element
 * @param when 'near': only once its place comes near the window, or the page is used
 */
export function lazily<P extends object>(
  load: () => Promise<ComponentType<P>>,
  Meanwhile: ComponentType<P> = () => <p className="text-quiet">One moment …</p>,
  when: 'shown' | 'near' = 'shown',
): ComponentType<P> {
  let loaded: ComponentType<P> | undefined;
  let loading: Promise<ComponentType<P>> | undefined;
  const fetched = (): Promise<ComponentType<P>> =>
    (loading ??= load().then(
      (component) => (loaded = component),
      () => Missing,
    ));
  const useComponent = (place: RefObject<HTMLElement | null>): ComponentType<P> | undefined => {
    const [come, setCome] = useState<{ component: ComponentType<P> }>();
    // What was fetched before stands there from the first, where the script makes it.
    const [ready] = useState(() => ({ component: when === 'shown' || inUse ? loaded : undefined }));
    const made = useMadeHere();
    useEffect(() => {
      let gone = false;
      const begin = (): void => {
        void fetched().then((component) => {
          if (!gone) startTransition(() => setCome((now) => now ?? { component }));
        });
      };
      const element = when === 'near' ? (place.current?.firstElementChild ?? null) : null;
      const end = whenNear(element, begin);
      return () => {
        gone = true;
        end();
      };
    }, [place]);
    return come?.component ?? (made ? ready.component : undefined);
  };
  return function Lazily(props: P) {
    const place = useRef<HTMLDivElement>(null);
    const Component = useComponent(place);
    if (Component) return <Component {...props} />;
    return when === 'shown' ? (
      <Meanwhile {...props} />
    ) : (
      <div ref={place} className="contents">
        <Meanwhile {...props} />
      </div>
    );
  };
}
