import { theme, type ThemeConfig } from "antd";

/** Every color, face and measure of the interface. Charts read the same palette. */
export interface Palette {
  ground: string;
  paper: string;
  ink: string;
  quiet: string;
  rule: string;
  accent: string;
  before: string;
  after: string;
  caution: string;
  error: string;
}

export const PALETTES: Record<"light" | "dark", Palette> = {
  light: {
    ground: "#efe8d8",
    paper: "#fbf7ec",
    ink: "#1f2b33",
    quiet: "#5a6166",
    rule: "#cfc5ae",
    accent: "#6c2e63",
    before: "#9a5200",
    after: "#00696b",
    caution: "#7a5200",
    error: "#9b1c1c",
  },
  dark: {
    ground: "#14181b",
    paper: "#1d2327",
    ink: "#efe9da",
    quiet: "#a9adaa",
    rule: "#3c4449",
    accent: "#d9a3d0",
    before: "#e8a55c",
    after: "#5ccbc7",
    caution: "#e3b75d",
    error: "#ff9c94",
  },
};

/** Before is always dashed and after always solid, so that the groups differ without color too. */
export const GROUP_DASH = { before: [7, 4] as [number, number], after: "solid" as const };

export const TITLE_FACE = "'Literata Variable', Georgia, serif";
export const TEXT_FACE = "'Public Sans Variable', 'DejaVu Sans', sans-serif";

export function themeConfig(mode: "light" | "dark"): ThemeConfig {
  const p = PALETTES[mode];
  return {
    algorithm: mode === "dark" ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: p.accent,
      colorLink: p.accent,
      colorBgLayout: p.ground,
      colorBgContainer: p.paper,
      colorBgElevated: p.paper,
      colorText: p.ink,
      colorTextSecondary: p.quiet,
      colorTextTertiary: p.quiet,
      colorTextDescription: p.quiet,
      colorTextPlaceholder: p.quiet,
      colorTextLightSolid: mode === "dark" ? "#14181b" : "#ffffff",
      colorBorder: p.rule,
      colorBorderSecondary: p.rule,
      colorSplit: p.rule,
      colorError: p.error,
      colorWarning: p.caution,
      colorErrorBg: p.paper,
      colorErrorBorder: p.error,
      colorWarningBg: p.paper,
      colorWarningBorder: p.caution,
      borderRadius: 3,
      fontFamily: TEXT_FACE,
      fontSize: 15,
      motion: false,
      wireframe: true,
    },
    components: {
      Table: {
        headerBg: p.paper,
        headerColor: p.quiet,
        headerSplitColor: "transparent",
        cellPaddingBlockSM: 6,
        cellPaddingInlineSM: 6,
        cellFontSizeSM: 14,
        rowHoverBg: p.ground,
      },
      Form: { itemMarginBottom: 12, verticalLabelPadding: "0 0 2px" },
      Button: { primaryShadow: "none", defaultShadow: "none" },
    },
  };
}
