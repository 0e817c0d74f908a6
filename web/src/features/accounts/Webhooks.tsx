import { Alert, Button, Checkbox, Form, Input, Popconfirm, Typography } from "antd";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";

const EVENTS: Schemas["WebhookEvent"][] = ["run stored", "comparison saved", "recording in trouble"];
const AGAIN_MS = 5000; // what was sent goes on by itself

/** Addresses of other programs that are notified of what happens: add one, see what it was sent, remove it. */
export function Webhooks() {
  const { list, add, remove, again } = useWebhooks();
  const [form] = Form.useForm<Schemas["WebhookRequest"]>();
  const error = list.error ?? add.error ?? remove.error ?? again.error;
  return (
    <>
      <p>
        Another program is notified at its address of what happens here. A secret of its own signs each
        message.
      </p>
      <Form
        form={form}
        layout="vertical"
        initialValues={{ events: EVENTS }}
        onFinish={(values) => add.mutate(values, { onSuccess: () => form.resetFields() })}
      >
        <Form.Item name="address" label="Address" rules={[{ required: true, message: "Say where" }]}>
          <Input maxLength={300} placeholder="https://" inputMode="url" />
        </Form.Item>
        <Form.Item
          name="events"
          label="Notify of"
          rules={[{ type: "array", min: 1, message: "Choose at least one" }]}
        >
          <Checkbox.Group options={EVENTS} />
        </Form.Item>
        <Button type="primary" htmlType="submit" loading={add.isPending}>
          Add address
        </Button>
      </Form>
      {error && <Alert className="webhook" type="error" title={error.message} />}
      {add.data && (
        <Alert
          className="webhook"
          type="success"
          title="Copy the secret that signs what is sent there. It is not shown again."
          description={<Typography.Text copyable>{add.data.secret}</Typography.Text>}
        />
      )}
      {list.data?.length === 0 && <p className="quiet">No addresses yet.</p>}
      {list.data?.map((webhook) => (
        <section key={webhook.id} className="webhook">
          <div className="row">
            <strong className="breakable">{webhook.address}</strong>
            <span className="quiet">{webhook.events.join(", ")}</span>
            <Popconfirm
              title="Remove this address? What waits for it is not sent."
              okText="Remove"
              onConfirm={() => remove.mutate(webhook.id)}
            >
              <Button size="small" aria-label={`Remove ${webhook.address}`}>
                Remove
              </Button>
            </Popconfirm>
          </div>
          {webhook.deliveries.length === 0 ? (
            <p className="quiet">Nothing was sent there yet.</p>
          ) : (
            <DataTable
              label={`Sent to ${webhook.address}`}
              rows={webhook.deliveries}
              rowKey={(delivery) => delivery.id}
              columns={[
                { title: "When", value: (delivery) => dayAndTime(delivery.made_at) },
                { title: "What", value: (delivery) => delivery.event },
                { title: "Became of it", wrap: true, value: outcome },
                {
                  title: "",
                  value: (delivery) =>
                    delivery.given_up && (
                      <Button size="small" onClick={() => again.mutate(delivery.id)}>
                        Send again
                      </Button>
                    ),
                },
              ]}
            />
          )}
        </section>
      ))}
    </>
  );
}

function outcome({ taken_at, given_up, tries, answer }: Schemas["Delivery"]): string {
  if (taken_at) return "taken";
  if (tries === 0) return "waits";
  return `${given_up ? "given up" : "is tried again"} after ${tries} ${tries === 1 ? "try" : "tries"}: ${answer}`;
}

function useWebhooks() {
  const client = useQueryClient();
  const key = ["webhooks"];
  const settled = { onSuccess: () => client.invalidateQueries({ queryKey: key }) };
  return {
    list: useQuery({
      queryKey: key,
      queryFn: async () => body(await api.GET("/api/v1/webhooks/")).results,
      staleTime: 0,
      refetchInterval: AGAIN_MS,
    }),
    add: useMutation({
      mutationFn: async (values: Schemas["WebhookRequest"]) =>
        body(await api.POST("/api/v1/webhooks/", { body: values })),
      ...settled,
    }),
    remove: useMutation({
      mutationFn: (id: number) => api.DELETE("/api/v1/webhooks/{id}/", { params: { path: { id } } }),
      ...settled,
    }),
    again: useMutation({
      mutationFn: async (id: number) =>
        body(await api.POST("/api/v1/webhook-deliveries/{id}/again/", { params: { path: { id } } })),
      ...settled,
    }),
  };
}
