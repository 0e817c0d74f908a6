import { Alert, Button, Modal, Popconfirm, Table } from "antd";
import { useState } from "react";

import { Failed, Loading } from "../../shared/States";
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
        {administers && (
          <Button type="primary" className="push" onClick={() => setEditing("new")}>
            Add a device
          </Button>
        )}
      </div>
      {remove.error && <Alert type="error" title={remove.error.message} className="below" />}
      <section className="sheet">
        <Table
          rowKey="id"
          size="small"
          pagination={false}
          dataSource={devices.data}
          locale={{ emptyText: "No devices yet. An administrator adds the GPS receiver first." }}
          columns={[
            { title: "Name", dataIndex: "name" },
            { title: "Kind", render: (_, device: Device) => kindOf(device) },
            { title: "Connection", render: (_, device: Device) => placeOf(device) },
            {
              title: "",
              render: (_, device: Device) =>
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
