export * from "./workspace";
export * from "./jobs";
export * from "./catalogue";
export * from "./shelves";
export * from "./planogram";
export * from "./dispatch";
export * from "./results";
export * from "./market";
