// Sections follow what is typed; figures are nudged by keys.
import { follow } from "./follow.js";
import "./nudge.js";

follow(document.getElementById("texture"));
