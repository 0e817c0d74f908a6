import { Form } from "antd";
import { useState } from "react";

import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, NumberField, TextField } from "../../shared/fields";
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
  const networked = connection === "tcp" || connection === "socketcand";
  return (
    <EntryForm
      form={form}
      first={opened ?? { kind: "receiver", connection: "serial", baud_rate: 115200 }}
      onChange={({ kind: chosen }: Partial<Device>) => {
        const first = KINDS.find((each) => each.value === chosen)?.connections[0];
        if (first) form.setFieldValue("connection", first);
      }}
      save={save}
      sent={(values) => ({ ...values, revision: opened?.revision })}
      done={done}
      submit={opened ? "Save" : "Add device"}
    >
      <div className="form-grid">
        <TextField name="name" label="Name" required="Enter a name" most={60} />
        <ChoiceField name="kind" label="Kind" options={KINDS} />
        <ChoiceField
          name="connection"
          label="Connection"
          options={KINDS.find((each) => each.value === kind)?.connections.map((value) => ({
            value,
            label: CONNECTIONS[value],
          }))}
        />
        {connection === "serial" && (
          <>
            <TextField name="path" label="Serial port" placeholder="/dev/ttyACM0" />
            <NumberField name="baud_rate" label="Baud rate" />
          </>
        )}
        {networked && (
          <>
            <TextField name="host" label="Host" placeholder="127.0.0.1" />
            <NumberField name="port" label="Port" min={1} max={65535} />
          </>
        )}
        {kind === "CAN" && <TextField name="channel" label="CAN interface" placeholder="can0" />}
      </div>
      {kind === "CAN" && <TextField name="dbc" label="DBC; Coombe’s own if empty" rows={3} />}
    </EntryForm>
  );
}
