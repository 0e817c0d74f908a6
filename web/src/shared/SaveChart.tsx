import { Button } from "antd";
import type { EChartsCoreOption } from "echarts/core";

/** A chart as a file: drawn again, at twice the size of the screen for a picture, or as vectors. */
export function SaveChart({ option, name }: { option: () => EChartsCoreOption; name: string }) {
  const save = async (kind: "svg" | "png") => {
    const { drawnAs } = await import("./chartFile");
    const link = document.createElement("a");
    link.href = await drawnAs(option(), kind);
    link.download = `${name}.${kind}`;
    link.click();
  };
  return (
    <div className="no-print save-chart">
      <Button size="small" type="text" onClick={() => void save("png")} aria-label={`Save ${name} as PNG`}>
        PNG
      </Button>
      <Button size="small" type="text" onClick={() => void save("svg")} aria-label={`Save ${name} as SVG`}>
        SVG
      </Button>
    </div>
  );
}
