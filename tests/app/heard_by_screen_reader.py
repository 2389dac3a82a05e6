"""Goes through the first correction of a record by keys alone, and asks the accessibility bus what is there."""
import sqlite3
import subprocess
import sys
import time

import pyatspi

program, database = sys.argv[1:]
INTERACTIVE = {
    pyatspi.ROLE_PUSH_BUTTON, pyatspi.ROLE_TOGGLE_BUTTON, pyatspi.ROLE_TEXT, pyatspi.ROLE_ENTRY, pyatspi.ROLE_LIST,
    pyatspi.ROLE_TABLE, pyatspi.ROLE_COMBO_BOX, pyatspi.ROLE_CHECK_BOX}


def wait(what, condition, seconds=20):
    end = time.time() + seconds
    while time.time() < end:
        try:
            found = condition()
        except Exception:  # something that was there a moment ago is not any more
            found = None
        if found:
            return found
        time.sleep(0.1)
    sys.exit(f"not heard: {what}")


def key(*names):
    subprocess.run(["xdotool", "key", "--delay", "60", *names], check=True)


def type_text(text):
    subprocess.run(["xdotool", "type", "--delay", "60", text], check=True)


def showing(node):
    return node.getState().contains(pyatspi.STATE_SHOWING)


def below(node, depth=0):
    """All that is shown below a node, but for the cells of tables, which may be ten millions."""
    for i in range(min(node.childCount, 200)):
        child = node.getChildAtIndex(i)
        if child is None or not showing(child):
            continue
        yield child
        if child.getRole() != pyatspi.ROLE_TABLE:
            yield from below(child, depth + 1)


def application():
    desktop = pyatspi.Registry.getDesktop(0)
    for i in range(desktop.childCount):
        child = desktop.getChildAtIndex(i)
        if child is not None and child.name == "iterandum":
            return child
    return None


def find(app, role, name):
    return next((n for n in below(app) if n.getRole() == role and name in (n.name or "")), None)


def main():
    running = subprocess.Popen([program, database])
    try:
        app = wait("the program", application)
        # No window manager is there to give the keys to the window.
        subprocess.run(["xdotool", "search", "--sync", "--onlyvisible", "--name", "Iterandum", "windowfocus", "--sync"],
                       check=True)
        wait("the catalogue", lambda: find(app, pyatspi.ROLE_LIST, "Tables"))
        type_text("tree")
        key("Return")
        node = wait("the sheet as a table", lambda: find(app, pyatspi.ROLE_TABLE, "tree"))
        table = node.queryTable()
        wait("300 records", lambda: table.nRows >= 300)
        heads = {table.getColumnDescription(c): c for c in range(table.nColumns)}
        column = heads["condition_code"]
        cell = wait("a cell with its value",
                    lambda: (c := table.getAccessibleAt(3, column)) and c.name not in ("", "still being read") and c)
        before = cell.name
        assert table.getColumnHeader(column).name == "condition_code"
        after = "1" if before != "1" else "2"
        key("Down", "Down", "Down")
        for _ in range(column):
            key("Right")
        wait("where the keys are", lambda: table.getAccessibleAt(3, column).getState().contains(pyatspi.STATE_FOCUSED))
        assert table.getAccessibleAt(3, column).getState().contains(pyatspi.STATE_EDITABLE)
        type_text(after)
        key("Return")
        wait("what was changed", lambda: table.getAccessibleAt(3, column).name == f"changed from {before} to {after}")
        key("shift+Down", "shift+Down")
        wait("what is selected", lambda: table.nSelectedRows == 0 and
             table.getAccessibleAt(5, column).getState().contains(pyatspi.STATE_SELECTED))

        nameless = [str(n) for n in below(app) if n.getRole() in INTERACTIVE and not n.name]
        assert not nameless, f"without a name: {nameless}"

        key("ctrl+r")
        apply = wait("the button that applies", lambda: (b := find(app, pyatspi.ROLE_PUSH_BUTTON, "Apply to 1 record"))
                     and b.getState().contains(pyatspi.STATE_ENABLED) and b)
        nameless = [str(n) for n in below(app) if n.getRole() in INTERACTIVE and not n.name]
        assert not nameless, f"without a name in the review: {nameless}"
        apply.queryAction().doAction(0)
        wait("that it was applied", lambda: find(app, pyatspi.ROLE_LABEL, "Applied to 1 record"))
        held = sqlite3.connect(database).execute("SELECT condition_code FROM tree ORDER BY tree_id LIMIT 1 OFFSET 3")
        assert str(held.fetchone()[0]) == after
        print("heard, and written")
    finally:
        running.terminate()
        running.wait(10)


main()
