import { createContext, useContext } from "react";

/** Which rehearsal's runs and deliveries are looked at; the real ones where there is none. */
export const RehearsalSeen = createContext<number | undefined>(undefined);

export const useRehearsalSeen = () => useContext(RehearsalSeen);
