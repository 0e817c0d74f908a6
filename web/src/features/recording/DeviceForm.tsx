import { Button, Form, Input, InputNumber, Select } from "antd";
import { useState } from "react";

import { ApiError } from "../../api/client";
import { SaveError } from "../../shared/SaveError";
import { KINDS, useSaveDevice, type Device } from "./devices";

const CONNECTIONS: Record<string, string> = {
  serial: "Serial port",
  tcp: "TCP",
  socketcan: "CAN interface of this machine",
  socketcand: "CAN over the network (socketcand)",
};

/** How a device is reached. The server opens serial ports and named hosts only. */
export function DeviceForm({ device, done }: { device?: Device; done: () => void }) {
  const save = useSaveDevice(device?.id);
  const [opened] = useState(device);
  const [form] = Form.useForm<Device>();
  const kind = Form.useWatch("kind", form);
  const connection = Form.useWatch("connection", form);
  const refused = save.error instanceof ApiError ? save.error.fields : {};
  const field = (name: keyof Device, label: string) => ({
    name,
    label,
    ...(refused[name] ? { validateStatus: "error" as const, help: refused[name] } : {}),
  });
  const networked = connection === "tcp" || connection === "socketcand";
  return (
    <Form
      form={form}
      layout="vertical"
      initialValues={opened ?? { kind: "receiver", connection: "serial", baud_rate: 115200 }}
      onValuesChange={({ kind: chosen }: Partial<Device>) => {
        const first = KINDS.find((each) => each.value === chosen)?.connections[0];
        if (first) form.setFieldValue("connection", first);
      }}
      onFinish={(values) => save.mutate({ ...values, revision: opened?.revision }, { onSuccess: done })}
    >
      <div className="form-grid">
        <Form.Item {...field("name", "Name")} rules={[{ required: true, message: "What you call it" }]}>
          <Input maxLength={60} />
        </Form.Item>
        <Form.Item {...field("kind", "Kind")}>
          <Select options={KINDS} />
        </Form.Item>
        <Form.Item {...field("connection", "Connection")}>
          <Select
            options={KINDS.find((each) => each.value === kind)?.connections.map((value) => ({
              value,
              label: CONNECTIONS[value],
            }))}
          />
        </Form.Item>
        {connection === "serial" && (
          <>
            <Form.Item {...field("path", "Serial port")}>
              <Input placeholder="/dev/ttyACM0" />
            </Form.Item>
            <Form.Item {...field("baud_rate", "Baud rate")}>
              <InputNumber style={{ width: "100%" }} />
            </Form.Item>
          </>
        )}
        {networked && (
          <>
            <Form.Item {...field("host", "Host")}>
              <Input placeholder="127.0.0.1" />
            </Form.Item>
            <Form.Item {...field("port", "Port")}>
              <InputNumber min={1} max={65535} style={{ width: "100%" }} />
            </Form.Item>
          </>
        )}
        {kind === "CAN" && (
          <Form.Item {...field("channel", "CAN interface")}>
            <Input placeholder="can0" />
          </Form.Item>
        )}
      </div>
      {kind === "CAN" && (
        <Form.Item {...field("dbc", "DBC, Coombe’s own where empty")}>
          <Input.TextArea rows={3} />
        </Form.Item>
      )}
      <SaveError save={save} done={done} atFields={Object.keys(refused).length > 0} />
      <Button type="primary" htmlType="submit" loading={save.isPending}>
        {opened ? "Save" : "Add the device"}
      </Button>
    </Form>
  );
}
