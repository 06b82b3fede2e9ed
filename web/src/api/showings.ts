/** Showings: links for people without an account. */
import { all, data, http, ofProject, saved } from "./client";
import type { NewShowing, ShowingEntry } from "./types";

const of = (showing_id: number) => ({ params: { path: { showing_id } } });

export const showings = {
  list: (project: number) =>
    all((query) => {
      const params = { ...ofProject(project).params, query };
      return data(http.GET("/api/v1/projects/{project_id}/showings", { params }));
    }) as Promise<ShowingEntry[]>,
  create: (project: number, body: NewShowing) =>
    data(http.POST("/api/v1/projects/{project_id}/showings", { ...ofProject(project), body: body as never })),
  again: (id: number) => data(http.POST("/api/v1/showings/{showing_id}/again", of(id))),
  withdraw: (id: number) => data(http.POST("/api/v1/showings/{showing_id}/withdraw", of(id))),
  remove: (id: number) => data(http.DELETE("/api/v1/showings/{showing_id}", of(id))),
  /** The showing as a file that needs no server. */
  file: (id: number, form: "page" | "folder") => saved(`showings/${id}/file?form=${form}`, "showing.html"),
};

export const showingUrl = ({ token }: ShowingEntry) => `${location.origin}/showing/#${token}`;
