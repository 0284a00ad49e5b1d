import { Button, Menu } from "@mantine/core";
import { memo } from "react";
import type { Schemas } from "../../../api";
import type { Content } from "../../../core/content";
import { behind, following, withLanguage, withoutLanguage } from "../../../core/languages";
import { sayBlock } from "../../../core/writing";
import classes from "./Languages.module.css";

interface LanguagesProps {
  content: Content;
  vocabulary: Schemas["Vocabulary"];
  /** Which words are on screen: those of `others[at]`, undefined for the main ones. */
  at: number | undefined;
  may: boolean;
  onAt: (at: number | undefined) => void;
  onEdit: (change: (now: Content) => Content) => void;
}

/** The languages of a message: each reader gets the words in theirs, else the main ones. */
export const Languages = memo(function Languages({
  content,
  vocabulary,
  at,
  may,
  onAt,
  onEdit,
}: LanguagesProps) {
  const nameOf = (code: string) => vocabulary.languages.find((one) => one.code === code)?.name ?? code;
  const own = content.language || vocabulary.locale.slice(0, 2);
  const free = vocabulary.languages.filter(
    (one) => one.code !== own && !content.others.some((other) => other.language === one.code),
  );
  const other = at === undefined ? undefined : content.others[at];
  const changes = other ? behind(content, other) : [];
  return (
    <div className={classes.languages}>
      <div className={classes.tabs}>
        <div className={classes.tabs} role="tablist" aria-label="Languages">
          <button type="button" role="tab" aria-selected={at === undefined} onClick={() => onAt(undefined)}>
            {nameOf(own)} · main
          </button>
          {content.others.map((one, index) => {
            const late = behind(content, one).length;
            return (
              <button
                key={one.language}
                type="button"
                role="tab"
                aria-selected={index === at}
                data-late={late > 0 || undefined}
                onClick={() => onAt(index)}
              >
                {nameOf(one.language)}
                {late > 0 && ` · ${late} behind`}
              </button>
            );
          })}
        </div>
        {may && free.length > 0 && (
          <Menu shadow="md">
            <Menu.Target>
              <button type="button" aria-label="Add a language">
                + language
              </button>
            </Menu.Target>
            <Menu.Dropdown>
              {free.map((one) => (
                <Menu.Item
                  key={one.code}
                  onClick={() => {
                    onEdit((now) => withLanguage(now, one.code));
                    onAt(content.others.length);
                  }}
                >
                  {one.name}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        )}
      </div>
      {other && at !== undefined && (
        <div className={classes.about}>
          <span>
            Whoever reads {nameOf(other.language)} gets these words.
            {changes.length > 0 && " The main words changed since:"}
          </span>
          {changes.length > 0 && (
            <ul>
              {changes.map((one, index) => (
                <li key={index}>
                  <b>{one.what}</b>{" "}
                  {one.stretches.map((stretch, place) =>
                    stretch.in === "both" ? (
                      <span key={place}>{stretch.text}</span>
                    ) : stretch.in === "older" ? (
                      <del key={place}>{stretch.text}</del>
                    ) : (
                      <ins key={place}>{stretch.text}</ins>
                    ),
                  )}
                  {one.onlySet && " is set otherwise"}
                </li>
              ))}
            </ul>
          )}
          {may && (
            <span className={classes.acts}>
              {changes.length > 0 && (
                <Button size="compact-sm" onClick={() => onEdit((now) => following(now, at))}>
                  These words follow the main ones now
                </Button>
              )}
              <Button
                size="compact-sm"
                variant="subtle"
                color="red"
                onClick={() => {
                  onEdit((now) => withoutLanguage(now, at));
                  onAt(undefined);
                }}
              >
                Remove {nameOf(other.language)}
              </Button>
            </span>
          )}
        </div>
      )}
    </div>
  );
});

/** The main words, to be read beside those in another language. */
export function MainWords({ content }: { content: Content }) {
  return (
    <aside className={classes.main} aria-label="The main words">
      <b>The main words</b>
      <p>{content.subject}</p>
      {content.preheader && <p className="soft">{content.preheader}</p>}
      {content.blocks.map((block) => (
        <p key={block.id}>{sayBlock(block)}</p>
      ))}
    </aside>
  );
}
