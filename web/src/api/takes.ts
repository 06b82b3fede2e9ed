/** Takes: pictures kept with the document that made them, and what is said of them. */
import { all, data, http, ofProject, saved } from "./client";
import type { Area, Comparison, Operation, PictureOfDifference, TakeChange, TakeEntry } from "./types";

const of = (take_id: number) => ({ params: { path: { take_id } } });
export type DifferenceKind = "absolute" | "colour" | "perceptual";

export const takes = {
  list: (project: number) =>
    all((query) => {
      const params = { ...ofProject(project).params, query };
      return data(http.GET("/api/v1/projects/{project_id}/takes", { params }));
    }) as Promise<TakeEntry[]>,
  change: (id: number, body: TakeChange) =>
    data(http.PATCH("/api/v1/takes/{take_id}", { ...of(id), body: body as never })),
  remove: (id: number) => data(http.DELETE("/api/v1/takes/{take_id}", of(id))),
  say: (id: number, text: string, answers: number | null = null) =>
    data(http.POST("/api/v1/takes/{take_id}/comments", { ...of(id), body: { text, answers } })),
  /** What differs from one to the other, or to the project as it is. */
  words: (id: number, other: number | null) => {
    const params = { ...of(id).params, query: { other } };
    return data(http.GET("/api/v1/takes/{take_id}/words", { params })) as Promise<Comparison>;
  },
  difference: (id: number, other: number, kind: DifferenceKind) => {
    const params = { ...of(id).params, query: { other, kind } };
    return data(http.GET("/api/v1/takes/{take_id}/difference", { params })) as Promise<PictureOfDifference>;
  },
  /** The patch that makes the project as it was then, all of it or some areas. */
  restoring: (id: number, areas?: Area[]) =>
    data(
      http.POST("/api/v1/takes/{take_id}/restoring", { ...of(id), body: (areas ? { areas } : {}) as never }),
    ) as unknown as Promise<{ label: string; patch: Operation[] }>,
  /** Have a contact sheet written, and save it. */
  sheet: (project: number, ids: number[]) =>
    saved(`projects/${project}/sheet?${ids.map((id) => `takes=${id}`).join("&")}`, "takes.pdf"),
};
