/** Orders: many prints at once. */
import { all, data, http, ofProject, saved } from "./client";
import type { NewOrder, OrderChoice, OrderEntry, PrintEntry } from "./types";

const of = (order_id: number) => ({ params: { path: { order_id } } });

export const orders = {
  plan: (project: number, body: OrderChoice) =>
    data(
      http.POST("/api/v1/projects/{project_id}/orders/plan", { ...ofProject(project), body: body as never }),
    ),
  list: (project: number) =>
    all((query) => {
      const params = { ...ofProject(project).params, query };
      return data(http.GET("/api/v1/projects/{project_id}/orders", { params }));
    }) as Promise<OrderEntry[]>,
  create: (project: number, body: NewOrder) =>
    data(http.POST("/api/v1/projects/{project_id}/orders", { ...ofProject(project), body: body as never })),
  stop: (id: number) => data(http.POST("/api/v1/orders/{order_id}/stop", of(id))),
  resume: (id: number) => data(http.POST("/api/v1/orders/{order_id}/resume", of(id))),
  remove: (id: number) => data(http.DELETE("/api/v1/orders/{order_id}", of(id))),
  prints: (id: number) =>
    all((query) => {
      const params = { ...of(id).params, query };
      return data(http.GET("/api/v1/orders/{order_id}/prints", { params }));
    }) as Promise<PrintEntry[]>,
  /** What is made of it, small, on paper. */
  sheet: (id: number) => saved(`orders/${id}/sheet`, `order-${id}.pdf`),
  /** All files that are made, as one zip. */
  file: (id: number) => saved(`orders/${id}/file`, `order-${id}.zip`),
};
