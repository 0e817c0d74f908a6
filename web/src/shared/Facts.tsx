import { Descriptions } from "antd";
import type { ReactNode } from "react";

const HALF = { xs: 2, sm: 3, md: 3, lg: 3, xl: 3, xxl: 3 };
const WIDE = { xs: 2, sm: 3, md: 4, lg: 6, xl: 6, xxl: 6 };

interface Props {
  rows: [string, ReactNode][];
  /** On a sheet as wide as the page. */
  wide?: boolean;
}

/** Names and values of one thing, read at a glance. */
export function Facts({ rows, wide = false }: Props) {
  return (
    <Descriptions
      layout="vertical"
      colon={false}
      size="small"
      className="facts"
      column={wide ? WIDE : HALF}
      items={rows.map(([label, children]) => ({ key: label, label, children }))}
    />
  );
}
