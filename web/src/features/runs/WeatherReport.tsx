import { Button, Form, Input, Space } from "antd";
import { useState } from "react";

import { ApiError, type Schemas } from "../../api/client";
import { useWeather } from "./queries";

/** Fills the air's conditions in from a METAR line; nothing is stored before the form is saved. */
export function WeatherReport({
  id,
  fill,
}: {
  id: number;
  fill: (found: Partial<Schemas["Weather"]>) => void;
}) {
  const [report, setReport] = useState("");
  const weather = useWeather(id);
  const said = weather.error instanceof ApiError ? weather.error.fields.report : undefined;
  function read() {
    weather.mutate(report, {
      onSuccess: (found) =>
        fill(Object.fromEntries(Object.entries(found).filter(([, value]) => value !== null))),
    });
  }
  return (
    <Form.Item
      label="Weather report (METAR)"
      htmlFor="weather-report"
      {...(said ? { validateStatus: "error" as const, help: said } : {})}
    >
      <Space.Compact block>
        <Input
          id="weather-report"
          value={report}
          maxLength={400}
          onChange={(event) => setReport(event.target.value)}
          onPressEnter={(event) => {
            event.preventDefault();
            read();
          }}
        />
        <Button onClick={read} disabled={!report.trim()} loading={weather.isPending}>
          Fill in the weather
        </Button>
      </Space.Compact>
    </Form.Item>
  );
}
