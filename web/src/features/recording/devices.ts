import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";

export type Device = Schemas["Device"];

export function useDevices() {
  return useQuery({
    queryKey: ["devices"],
    queryFn: async () =>
      body(await api.GET("/api/v1/devices/", { params: { query: { page_size: 500 } } })).results,
  });
}

export function useSaveDevice(id?: number) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (device: Schemas["DeviceRequest"]) =>
      id === undefined
        ? body(await api.POST("/api/v1/devices/", { body: device }))
        : body(await api.PATCH("/api/v1/devices/{id}/", { params: { path: { id } }, body: device })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
}

export function useDeleteDevice() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (id: number) => {
      await api.DELETE("/api/v1/devices/{id}/", { params: { path: { id } } });
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["devices"] }),
  });
}

/** Where a device is reached, in a line. */
export function placeOf(device: Device): string {
  const { connection, path, baud_rate, host, port, channel } = device;
  if (connection === "serial") return `${path} at ${baud_rate} baud`;
  if (connection === "socketcan") return channel ?? "";
  return `${host}:${port}${channel ? `, ${channel}` : ""}`;
}

export const KINDS = [
  { value: "receiver", label: "GPS receiver", connections: ["serial", "tcp"] },
  { value: "CAN", label: "CAN", connections: ["socketcan", "socketcand"] },
  { value: "weather station", label: "Weather station", connections: ["tcp"] },
  { value: "simulation", label: "Simulated car and driver", connections: ["tcp"] },
];

export function kindOf(device: Device): string {
  return KINDS.find((kind) => kind.value === device.kind)?.label ?? device.kind;
}
