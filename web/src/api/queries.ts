/** What the server has, as far as this window has asked for it: lists, and what changes them. */
import { keepPreviousData, QueryClient, useMutation, useQuery } from "@tanstack/react-query";
import { api } from "./client";
import { orders } from "./orders";
import { showings } from "./showings";
import { takes } from "./takes";
import type { PrintEntry } from "./types";

const FRESH_MS = 5_000;
const [BUSY_MS, IDLE_MS] = [700, 5_000];
const WORKERS_MS = 2_000;

export const queryClient = new QueryClient({
  // The client itself sends again what may be sent again.
  defaultOptions: { queries: { staleTime: FRESH_MS, retry: false }, mutations: { retry: false } },
});

const KEYS = {
  projects: ["projects"],
  starts: ["starts"],
  environments: ["environments"],
  profiles: ["profiles"],
  images: ["images"],
  swatches: ["swatches"],
  rigs: ["rigs"],
  looks: ["looks"],
  prints: (project: number) => ["prints", project],
  printName: (project: number, template: string, revision: number) =>
    ["print-name", project, template, revision] as const,
  takes: (project: number) => ["takes", project],
  showings: (project: number) => ["showings", project],
  orders: (project: number) => ["orders", project],
  orderPrints: (order: number) => ["orderPrints", order],
  workers: ["workers"],
} as const;

/** The projects, asked for again while they are looked at: a cover is made some seconds after a project was left. */
export const useProjects = () =>
  useQuery({ queryKey: KEYS.projects, queryFn: api.projects, refetchInterval: IDLE_MS });
export const useStarts = () => useQuery({ queryKey: KEYS.starts, queryFn: api.starts });
export const useEnvironments = () => useQuery({ queryKey: KEYS.environments, queryFn: api.environments });
export const useRigs = () => useQuery({ queryKey: KEYS.rigs, queryFn: api.rigs });
export const useLooks = () => useQuery({ queryKey: KEYS.looks, queryFn: api.looks });
export const useImages = () => useQuery({ queryKey: KEYS.images, queryFn: api.images });
export const useProfiles = () => useQuery({ queryKey: KEYS.profiles, queryFn: api.profiles });

/** The library of materials, while it is wanted; asked for again while pictures of it are still being made. */
export const useSwatches = (isWanted: boolean) =>
  useQuery({
    queryKey: KEYS.swatches,
    queryFn: api.swatches,
    enabled: isWanted,
    staleTime: Number.POSITIVE_INFINITY,
    refetchInterval: ({ state }) =>
      state.data?.every((each) => each.has_picture) === false ? IDLE_MS : false,
  });

export const isActive = (print: PrintEntry) => print.state === "queued" || print.state === "running";

/** The newest prints of a project: asked for often while something runs, seldom otherwise. */
export const usePrints = (project: number) =>
  useQuery({
    queryKey: KEYS.prints(project),
    queryFn: () => api.prints(project),
    refetchInterval: ({ state }) => (state.data?.some(isActive) ? BUSY_MS : IDLE_MS),
  });

/** What the next print's files are called by a template; by much of the document, so that each revision asks anew. */
export const usePrintName = (project: number, template: string, revision: number) =>
  useQuery({
    queryKey: KEYS.printName(project, template, revision),
    queryFn: () => api.printName(project, template),
    placeholderData: keepPreviousData,
  });

/** The prints of an order, while they are looked at. */
export const useOrderPrints = (order: number) =>
  useQuery({
    queryKey: KEYS.orderPrints(order),
    queryFn: () => orders.prints(order),
    refetchInterval: ({ state }) => (state.data?.some(isActive) ? BUSY_MS : false),
  });

/** The workers that are there: one may come or go at any time. */
export const useWorkers = () =>
  useQuery({ queryKey: KEYS.workers, queryFn: api.workers, refetchInterval: WORKERS_MS });

/** The takes of a project: asked for again now and then, as others say something about them. */
export const useTakes = (project: number) =>
  useQuery({
    queryKey: KEYS.takes(project),
    queryFn: () => takes.list(project),
    refetchInterval: 2 * IDLE_MS,
  });

/** The showings of a project, asked for often while their pictures are being made. */
export const useShowings = (project: number) =>
  useQuery({
    queryKey: KEYS.showings(project),
    queryFn: () => showings.list(project),
    refetchInterval: ({ state }) =>
      state.data?.some((each) => each.pictures < each.wanted) ? 2 * BUSY_MS : 2 * IDLE_MS,
  });

/** The orders of a project, asked for often while something of them is being made. */
export const useOrders = (project: number) =>
  useQuery({
    queryKey: KEYS.orders(project),
    queryFn: () => orders.list(project),
    refetchInterval: ({ state }) => (state.data?.some((each) => each.open > 0) ? 2 * BUSY_MS : 2 * IDLE_MS),
  });

/** Ask again for a list: something in it has changed. */
export const changed = {
  projects: () =>
    Promise.all([KEYS.projects, KEYS.starts].map((queryKey) => queryClient.invalidateQueries({ queryKey }))),
  environments: () => queryClient.invalidateQueries({ queryKey: KEYS.environments }),
  profiles: () => queryClient.invalidateQueries({ queryKey: KEYS.profiles }),
  images: () => queryClient.invalidateQueries({ queryKey: KEYS.images }),
  swatches: () => queryClient.invalidateQueries({ queryKey: KEYS.swatches }),
  rigs: () => queryClient.invalidateQueries({ queryKey: KEYS.rigs }),
  looks: () => queryClient.invalidateQueries({ queryKey: KEYS.looks }),
  prints: (project: number) => queryClient.invalidateQueries({ queryKey: KEYS.prints(project) }),
  takes: (project: number) => queryClient.invalidateQueries({ queryKey: KEYS.takes(project) }),
  showings: (project: number) => queryClient.invalidateQueries({ queryKey: KEYS.showings(project) }),
  orders: (project: number) =>
    Promise.all(
      [KEYS.orders(project), KEYS.prints(project)].map((queryKey) =>
        queryClient.invalidateQueries({ queryKey }),
      ),
    ),
};

/** The list of environments, of profiles or of images, as it is now. */
export const latestEnvironments = () =>
  queryClient.fetchQuery({ queryKey: KEYS.environments, queryFn: api.environments, staleTime: 0 });
export const latestProfiles = () =>
  queryClient.fetchQuery({ queryKey: KEYS.profiles, queryFn: api.profiles, staleTime: 0 });
export const latestLooks = () =>
  queryClient.fetchQuery({ queryKey: KEYS.looks, queryFn: api.looks, staleTime: 0 });
export const latestSwatches = () =>
  queryClient.fetchQuery({ queryKey: KEYS.swatches, queryFn: api.swatches, staleTime: 0 });
export const latestImages = () =>
  queryClient.fetchQuery({ queryKey: KEYS.images, queryFn: api.images, staleTime: 0 });

/** Something that is done to what the server has; `then` asks again for what it may have changed. */
export const useChange = <Input>(
  run: (input: Input) => Promise<unknown>,
  then: () => unknown,
  onError: (error: Error) => void,
) => useMutation({ mutationFn: run, onSettled: then, onError });
