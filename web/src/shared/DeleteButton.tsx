import { Alert, Button, Popconfirm } from "antd";

interface Props {
  /** What is deleted, as its name; the question is made of it. */
  name: string;
  /** What goes with it, or stays. */
  note?: string;
  remove: {
    mutate: (given: undefined, options: { onSuccess: () => void }) => void;
    isPending: boolean;
    error: Error | null;
  };
  done?: () => void;
  small?: boolean;
}

/** Deletes one thing after a question; it can be taken back. */
export function DeleteButton({ name, note, remove, done, small = false }: Props) {
  return (
    <>
      <Popconfirm
        title={`Delete ${name}?`}
        description={note}
        okText="Delete"
        onConfirm={() => remove.mutate(undefined, { onSuccess: () => done?.() })}
      >
        <Button
          danger
          size={small ? "small" : "middle"}
          loading={remove.isPending}
          aria-label={`Delete ${name}`}
        >
          Delete
        </Button>
      </Popconfirm>
      {remove.error && <Alert type="error" title={remove.error.message} />}
    </>
  );
}
