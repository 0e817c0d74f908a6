import { Alert, Button, Modal, Popconfirm } from "antd";
import { useState } from "react";

import { Failed, Loading } from "../../shared/States";
import { DataTable } from "../../shared/DataTable";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { DeviceForm } from "./DeviceForm";
import { kindOf, placeOf, useDeleteDevice, useDevices, type Device } from "./devices";

/** What recorders may be connected to: administrators say how, testers choose. */
export function DevicesPage() {
  useTitle("Devices");
  const devices = useDevices();
  const remove = useDeleteDevice();
  const { person } = useSession();
  const [editing, setEditing] = useState<Device | "new" | null>(null);
  if (devices.error) return <Failed error={devices.error} retry={() => void devices.refetch()} />;
  if (!devices.data) return <Loading what="the devices" />;
  const administers = person?.may_delete === true;
  return (
    <>
      <div className="page-head">
        <h1>Devices</h1>
        {!administers && <span className="quiet">Administrators add and change them.</span>}
        {administers && (
          <Button type="primary" className="push" onClick={() => setEditing("new")}>
            Add a device
          </Button>
        )}
      </div>
      {remove.error && <Alert type="error" title={remove.error.message} className="below" />}
      <section className="sheet">
        {devices.data.length === 0 && <p>No devices yet. An administrator adds the GPS receiver first.</p>}
        <DataTable
          rows={devices.data}
          rowKey={(device) => device.id}
          columns={[
            { title: "Name", wrap: true, value: (device) => device.name },
            { title: "Kind", value: kindOf },
            { title: "Connection", wrap: true, value: placeOf },
            {
              title: "",
              value: (device) =>
                administers && (
                  <>
                    <Button
                      size="small"
                      onClick={() => setEditing(device)}
                      aria-label={`Edit ${device.name}`}
                    >
                      Edit
                    </Button>{" "}
                    <Popconfirm
                      title={`Delete ${device.name}?`}
                      okText="Delete"
                      onConfirm={() => remove.mutate(device.id)}
                    >
                      <Button size="small" aria-label={`Delete ${device.name}`}>
                        Delete
                      </Button>
                    </Popconfirm>
                  </>
                ),
            },
          ]}
        />
      </section>
      <Modal
        title={editing === "new" ? "Add a device" : "Edit device"}
        open={editing !== null}
        onCancel={() => setEditing(null)}
        footer={null}
        destroyOnHidden
        width={640}
      >
        <DeviceForm
          {...(editing && editing !== "new" ? { device: editing } : {})}
          done={() => setEditing(null)}
        />
      </Modal>
    </>
  );
}
