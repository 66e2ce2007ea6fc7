import type { Component } from 'vue';

export interface MenuEntry {
  label?: string;
  heading?: string;
  icon?: Component;
  swatch?: string;
  keys?: string;
  checked?: boolean;
  disabled?: boolean;
  danger?: boolean;
  run?: () => void;
}
