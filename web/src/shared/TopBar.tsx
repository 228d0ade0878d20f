import { Button, Kbd, Modal, useMantineColorScheme } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { NavLink, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { useKeys } from "./keys";
import { NewsLine } from "./NewsLine";
import { useMe } from "./queries";
import { Ribbon } from "./Ribbon";
import { Search } from "./Search";
import { place } from "./time";
import styles from "./TopBar.module.css";

const places = [
  ["/", "Horizon"],
  ["/ledger", "Ledger"],
  ["/library", "Library"],
  ["/courses", "Courses"],
] as const;

const keys: [string, string][] = [
  ["/", "search everything"],
  ["?", "show these keys"],
  ["j  k", "next, previous"],
  ["Enter", "open"],
  ["x", "choose in the list"],
  ["g", "Horizon"],
  ["a", "add an assignment"],
  ["p", "plan"],
  ["w", "weekly sheet"],
  ["[  ]", "earlier, later"],
  ["1  2  3", "48 hours, two weeks, term"],
  ["0", "back to now"],
  ["f", "passage: fixed"],
  ["n", "passage: not mine to fix"],
  ["Esc", "close"],
];

export function TopBar() {
  const me = useMe().data;
  const navigate = useNavigate();
  const client = useQueryClient();
  const [help, { open, close, toggle }] = useDisclosure(false);
  const [account, menu] = useDisclosure(false);
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  useKeys({
    "?": toggle,
    g: () => navigate("/"),
    a: () => navigate("/add"),
    p: () => navigate("/plan"),
    w: () => navigate("/week"),
  });
  const leave = async () => {
    await ask(api.DELETE("/api/session"));
    client.clear();
    navigate("/signin");
  };
  return (
    <header className={styles.top}>
      <a href="#main" className="unseen">
        To the content
      </a>
      <div className={styles.bar}>
        <NavLink to="/" className={styles.word}>
          Orario
        </NavLink>
        <nav className={styles.places} aria-label="Places">
          {places.map(([to, name]) => (
            <NavLink
              key={to}
              to={to}
              end
              className={({ isActive }) => (isActive ? styles.here : undefined)}
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <Search />
        <button
          type="button"
          className={styles.who}
          onClick={menu.toggle}
          aria-expanded={account}
          aria-haspopup="dialog"
        >
          {me ? `${me.given} ${me.family}` : "Account"}
        </button>
      </div>
      <Ribbon />
      <NewsLine />
      <Modal opened={help} onClose={close} title="Keys">
        <dl className={styles.keys}>
          {keys.map(([k, what]) => (
            <div key={k}>
              <dt>
                <Kbd>{k}</Kbd>
              </dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Modal>
      <Modal
        opened={account}
        onClose={menu.close}
        title={me ? `${me.given} ${me.family}` : "Account"}
      >
        <div className={styles.account}>
          <p className="soft">
            {me?.email}, student number {me?.number}, times of {me && place(me.zone)}
          </p>
          <div>
            {(["auto", "light", "dark"] as const).map((scheme) => (
              <Button
                key={scheme}
                variant={colorScheme === scheme ? "filled" : "default"}
                onClick={() => setColorScheme(scheme)}
              >
                {{ auto: "As the system", light: "Light", dark: "Dark" }[scheme]}
              </Button>
            ))}
          </div>
          <div>
            <Button
              variant="default"
              onClick={() => {
                menu.close();
                navigate("/account");
              }}
            >
              Password and devices
            </Button>
            <Button
              variant="default"
              onClick={() => {
                menu.close();
                navigate("/settings");
              }}
            >
              Hours and reminders
            </Button>
            <Button
              variant="default"
              onClick={() => {
                menu.close();
                navigate("/calendars");
              }}
            >
              Calendars
            </Button>
            <Button
              variant="default"
              onClick={() => {
                menu.close();
                open();
              }}
            >
              Keys
            </Button>
            <Button variant="default" onClick={leave}>
              Sign out
            </Button>
          </div>
        </div>
      </Modal>
    </header>
  );
}
