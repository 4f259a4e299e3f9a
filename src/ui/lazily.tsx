import { useEffect, useSyncExternalStore, type ComponentType } from 'react';
import { Notice } from './Notice.tsx';

const Missing = () => (
  <Notice tone="error">
    This part of the page could not be fetched. Reload the page once you have a connection.
  </Notice>
);

/**
 * A component whose script is fetched when it is first shown: what most readers of a page never open costs them nothing.
 * Where it cannot be fetched, the page says so and goes on. The page is sent with what stands in its place, and so is every
 * page after it.
 *
 * @param Meanwhile what stands in its place until it has come
 */
export function lazily<P extends object>(
  load: () => Promise<ComponentType<P>>,
  Meanwhile: ComponentType<P> = () => <p className="text-quiet">One moment …</p>,
): ComponentType<P> {
  let loaded: ComponentType<P> | undefined;
  let loading: Promise<void> | undefined;
  const waiting = new Set<() => void>();
  const begin = (): void => {
    loading ??= load()
      .then(
        (component) => component,
        () => Missing,
      )
      .then((component) => {
        loaded = component;
        for (const tell of waiting) tell();
      });
  };
  const subscribe = (tell: () => void): (() => void) => {
    waiting.add(tell);
    return () => waiting.delete(tell);
  };
  return function Lazily(props: P) {
    const Component = useSyncExternalStore(
      subscribe,
      () => loaded,
      () => undefined,
    );
    useEffect(begin, []);
    return Component ? <Component {...props} /> : <Meanwhile {...props} />;
  };
}
