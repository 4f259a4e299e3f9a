import type { Post } from '../../core/boards/board.ts';
import { Sortable, useInOrder } from '../../ui/Sortable.tsx';
import { Line, type Acts } from './PinnedLine.tsx';

const LineInOrder = (props: Acts & { post: Post }) => <Line {...props} order={useInOrder(props.post.id)} />;

/** What is pinned, to be put in order by whoever may pin. */
export function PinnedOrder({
  pinned,
  acts,
  onOrder,
}: {
  pinned: readonly Post[];
  acts: Acts;
  onOrder: (ids: number[]) => void;
}) {
  return (
    <Sortable
      ids={pinned.map((post) => post.id)}
      nameOf={(id) => pinned.find((post) => post.id === id)?.title ?? ''}
      onOrder={onOrder}
    >
      {pinned.map((post) => (
        <LineInOrder key={post.id} post={post} {...acts} />
      ))}
    </Sortable>
  );
}
