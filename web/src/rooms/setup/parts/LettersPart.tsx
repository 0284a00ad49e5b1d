import { Button, ColorInput, Group, NativeSelect, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiProblem, client, renew, type Schemas, take, wordsOf } from "../../../api";
import { announce, Diamond, Letter, NumberField, PageHead, Trouble } from "../../../ui";
import { PictureChooser } from "../../messages";
import classes from "./LettersPart.module.css";

type Look = Schemas["Look"];

const COLOURS: { light: keyof Look; dark: keyof Look; words: string }[] = [
  { light: "ink", dark: "dark_ink", words: "Words" },
  { light: "accent", dark: "dark_accent", words: "Links and buttons" },
  { light: "paper", dark: "dark_paper", words: "Paper" },
  { light: "around", dark: "dark_around", words: "Around the paper" },
];

const FACES: { value: Look["font"]; label: string }[] = [
  { value: "plain", label: "Plain (Helvetica, Arial)" },
  { value: "wide", label: "Wide (Verdana)" },
  { value: "narrow", label: "Narrow (Trebuchet, Tahoma)" },
  { value: "book", label: "As a book (Georgia)" },
];

/** How all letters of the organisation look: colours, type, logo, the shape of buttons. */
export function LettersPart() {
  const { data, error } = useQuery({ queryKey: ["look"], queryFn: () => take(client.GET("/api/look")) });
  return (
    <section aria-label="Letters">
      <PageHead title="Letters" about="how all messages look; runs that were released keep theirs" />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {data && <LookForm key={data.revision} saved={data} />}
    </section>
  );
}

function LookForm({ saved }: { saved: Schemas["LookView"] }) {
  const queries = useQueryClient();
  const [look, setLook] = useState<Look>(saved.look);
  const [dark, setDark] = useState(false);
  const [narrow, setNarrow] = useState(false);
  const set = (change: Partial<Look>) => setLook((old) => ({ ...old, ...change }));
  const [settled] = useDebouncedValue(look, 200);
  const whole = COLOURS.every(({ light, dark: other }) => isColour(look[light]) && isColour(look[other]));
  const { data: tried } = useQuery({
    queryKey: ["look", "tried", settled],
    queryFn: ({ signal }) => take(client.POST("/api/look", { signal, body: settled })),
    enabled: whole,
    placeholderData: keepPreviousData,
  });
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/look", { body: { look, revision: saved.revision } })),
    onSuccess: () => {
      void renew(queries, "look", "lens", "message picture", "proofs");
      announce("Saved. Messages that are released from now on look so.");
    },
  });
  const fault = save.error;
  const at = (field: string) =>
    fault instanceof ApiProblem && fault.field === field ? { error: wordsOf(fault) } : {};
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const shown = tried ?? saved;
  return (
    <form className={classes.two} onSubmit={submit}>
      <div className={classes.choices}>
        <div className={classes.colours}>
          <span />
          <b>By day</b>
          <b>In the dark</b>
          {COLOURS.map((one) => (
            <Colours key={one.words} one={one} look={look} onSet={set} />
          ))}
        </div>
        <NativeSelect
          label="Type"
          description="Faces that mail programs have"
          value={look.font}
          data={FACES}
          onChange={(event) => set({ font: event.currentTarget.value as Look["font"] })}
        />
        <NativeSelect
          label="Buttons"
          value={String(look.corners)}
          data={[
            ...new Map(
              [
                [0, "with corners"],
                [4, "with soft corners"],
                [20, "round at their ends"],
                ...([0, 4, 20].includes(look.corners) ? [] : [[look.corners, `${look.corners} pixels`]]),
              ].map(([value, label]) => [value, { value: String(value), label: String(label) }]),
            ).values(),
          ]}
          onChange={(event) => set({ corners: Number(event.currentTarget.value) })}
        />
        <div className={classes.logo}>
          <TextInput
            label="Logo"
            description="Above every letter; none where this is empty"
            placeholder="https://…"
            value={look.logo}
            onChange={(event) => set({ logo: event.currentTarget.value })}
            {...at("logo")}
          />
          <PictureChooser
            onPicture={(picture) =>
              set({ logo: picture.address, logo_width: Math.min(240, Math.max(16, picture.width)) })
            }
          />
          {look.logo && (
            <Group grow align="flex-start">
              <TextInput
                label="The logo in words"
                value={look.logo_words}
                onChange={(event) => set({ logo_words: event.currentTarget.value })}
                {...at("logo_words")}
              />
              <NumberField
                label="Its width in pixels"
                whole
                min={16}
                max={600}
                value={look.logo_width}
                onNumber={(logo_width) => set({ logo_width })}
              />
            </Group>
          )}
        </div>
        {fault && !(fault instanceof ApiProblem && fault.field) && <Trouble>{wordsOf(fault)}</Trouble>}
        <Group gap="xs">
          <Button
            type="submit"
            variant="filled"
            disabled={!whole || JSON.stringify(look) === JSON.stringify(saved.look)}
            loading={save.isPending}
          >
            Save how letters look
          </Button>
          <Button onClick={() => setLook(saved.look)} disabled={look === saved.look}>
            Cancel
          </Button>
        </Group>
      </div>
      <div className={classes.shown}>
        <Group gap="xs">
          <Button size="compact-sm" variant={dark ? "light" : "default"} onClick={() => setDark(!dark)}>
            In the dark
          </Button>
          <Button size="compact-sm" variant={narrow ? "light" : "default"} onClick={() => setNarrow(!narrow)}>
            On a telephone
          </Button>
        </Group>
        <Letter html={shown.html} dark={dark} narrow={narrow} title="A letter as it would look" />
        <ul className={classes.judged} aria-label="How well it can be read">
          {shown.contrasts.map((one) => (
            <li key={one.what}>
              <Diamond state={one.enough ? "done" : "bad"} size={12} /> {one.what}: {one.ratio} to 1
              {!one.enough && <b> — too little; 4.5 is needed</b>}
            </li>
          ))}
        </ul>
      </div>
    </form>
  );
}

const isColour = (value: unknown) => typeof value === "string" && /^#[0-9a-f]{6}$/.test(value);

interface ColoursProps {
  one: (typeof COLOURS)[number];
  look: Look;
  onSet: (change: Partial<Look>) => void;
}

/** One colour by day and in the dark. */
function Colours({ one, look, onSet }: ColoursProps) {
  return (
    <>
      <span>{one.words}</span>
      {([one.light, one.dark] as const).map((key) => (
        <ColorInput
          key={key}
          size="xs"
          aria-label={`${one.words}${key === one.dark ? ", in the dark" : ""}`}
          value={String(look[key])}
          onChange={(value) => onSet({ [key]: value.toLowerCase() })}
          error={!isColour(look[key]) && "Write it as #1b7350."}
          withEyeDropper={false}
        />
      ))}
    </>
  );
}
