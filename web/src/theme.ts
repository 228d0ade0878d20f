import {
  Button,
  Checkbox,
  createTheme,
  type CSSVariablesResolver,
  Kbd,
  Modal,
  NativeSelect,
  SegmentedControl,
  Textarea,
  TextInput,
  Tooltip,
} from "@mantine/core";
import parts from "./theme.module.css";

const sans = '"Archivo Variable", system-ui, sans-serif';

export const theme = createTheme({
  fontFamily: sans,
  fontFamilyMonospace: '"IBM Plex Mono", ui-monospace, monospace',
  headings: { fontFamily: sans, fontWeight: "700" },
  fontSizes: { xs: "12px", sm: "13px", md: "14px", lg: "16px", xl: "20px" },
  defaultRadius: "2px",
  primaryColor: "petrol",
  primaryShade: { light: 7, dark: 4 },
  colors: {
    petrol: [
      "#e6f1f2",
      "#cfe3e5",
      "#a5ccd0",
      "#79b4ba",
      "#5fb3bd",
      "#3a8d97",
      "#1f7682",
      "#0e6470",
      "#0a515b",
      "#063d45",
    ],
  },
  respectReducedMotion: true,
  components: {
    Button: Button.extend({
      defaultProps: { size: "sm", variant: "filled" },
      classNames: { root: parts.button, label: parts.buttonLabel },
    }),
    TextInput: TextInput.extend({
      defaultProps: { withAsterisk: false },
      classNames: { input: parts.input, label: parts.label },
    }),
    Textarea: Textarea.extend({ classNames: { input: parts.input, label: parts.label } }),
    NativeSelect: NativeSelect.extend({ classNames: { input: parts.input, label: parts.label } }),
    Checkbox: Checkbox.extend({ classNames: { input: parts.check, label: parts.checkLabel } }),
    SegmentedControl: SegmentedControl.extend({
      defaultProps: { transitionDuration: 0 },
      classNames: {
        root: parts.segments,
        indicator: parts.segmentsIndicator,
        label: parts.segmentsLabel,
      },
    }),
    Modal: Modal.extend({
      defaultProps: { centered: true, overlayProps: { backgroundOpacity: 0.35 } },
      classNames: { content: parts.modal, header: parts.modalHeader },
    }),
    Tooltip: Tooltip.extend({
      defaultProps: { openDelay: 250 },
      classNames: { tooltip: parts.tooltip },
    }),
    Kbd: Kbd.extend({ classNames: { root: parts.kbd } }),
  },
});

/** Paper, ink and signals, as variables for every style sheet. */
export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    "--paper": "#f7f4ec",
    "--raised": "#fffdf7",
    "--ink": "#1b2330",
    "--soft": "#5a6270",
    "--rule": "#d9d2c1",
    "--weekend": "#efeadc",
    "--vermilion": "#c4432a",
    "--ochre": "#956010",
    "--petrol": "#0e6470",
    "--plum": "#6a3d69",
    "--on-petrol": "#ffffff",
    "--mantine-color-body": "#f7f4ec",
    "--mantine-color-text": "#1b2330",
    "--mantine-color-dimmed": "#5a6270",
  },
  dark: {
    "--paper": "#12161d",
    "--raised": "#1a2029",
    "--ink": "#ece6d8",
    "--soft": "#a5a79f",
    "--rule": "#343b46",
    "--weekend": "#171c24",
    "--vermilion": "#f0806a",
    "--ochre": "#dba755",
    "--petrol": "#62b8c2",
    "--plum": "#c79ac6",
    "--on-petrol": "#0d1a1d",
    "--mantine-color-body": "#12161d",
    "--mantine-color-text": "#ece6d8",
    "--mantine-color-dimmed": "#a5a79f",
  },
});
