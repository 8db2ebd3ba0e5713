// A link, or a button that reads like one, within text.
import type { ButtonHTMLAttributes } from "react";
import { Link, type LinkProps } from "react-router";

const LOOK = "underline decoration-line2 underline-offset-2";

export function TextLink({ className = "", ...rest }: LinkProps) {
  return <Link className={`${LOOK} ${className}`} {...rest} />;
}

export function TextButton({ className = "", ...rest }: ButtonHTMLAttributes<HTMLButtonElement>) {
  return <button type="button" className={`text-left ${LOOK} ${className}`} {...rest} />;
}
