#include "cli/act_options.h"

#include <map>

namespace iterandum::cli {
namespace {

Status missing(const std::string& option, const std::string& before) {
  return fail(ErrorKind::InvalidInput, option + " belongs to a " + before + " that stands before it");
}

// A name alone, which may be quoted.
Result<std::string> nameIn(const std::string& text, const std::string& option) {
  ITERANDUM_ASSIGN(const auto split, splitAtEquals(text + "=", option));
  return split.first;
}

}  // namespace

Result<std::pair<std::string, std::string>> splitAtEquals(const std::string& text, const std::string& option) {
  std::string name;
  std::size_t at = 0;
  if (text.starts_with('"')) {
    for (++at; at < text.size(); ++at) {
      if (text[at] != '"') {
        name += text[at];
      } else if (at + 1 < text.size() && text[at + 1] == '"') {
        name += text[at++];
      } else {
        break;
      }
    }
    ++at;
  } else {
    at = std::min(text.find('='), text.size());
    name = text.substr(0, at);
  }
  if (name.empty() || at >= text.size() || text[at] != '=') {
    return fail(ErrorKind::InvalidInput, option + " takes NAME=VALUE, not '" + text + "'");
  }
  return std::pair(std::move(name), text.substr(at + 1));
}

void addActOptions(CLI::App* command) {
  // What they say is read afterwards, by the order in which they stand.
  const auto act = [&](const char* name, const char* what) {
    command->add_option(name, CLI::callback_t([](const CLI::results_t&) { return true; }), what)
        ->expected(1)
        ->take_all();
  };
  const auto how = [&](const char* name, const char* what) {
    command->add_flag_function(
        name, [](std::int64_t) {}, what);
  };
  act("--to", "COLUMN=VALUE: the value as it would be typed into a cell");
  act("--clear", "COLUMN: no value");
  act("--compute", "COLUMN=EXPRESSION: computed from the record (docs/expressions.md)");
  act("--replace", "COLUMN: inside its texts, what --find says becomes what --with says");
  act("--find", "TEXT that the --replace before it looks for");
  act("--with", "TEXT that is put in its place");
  act("--map", "COLUMN=FILE: a CSV of two fields a line, old and new");
  act("--swap", "COLUMN=OTHER: the two exchange what they hold");
  how("--whole", "the --replace before it: only where it is the whole text");
  how("--start", "only at the beginning");
  how("--end", "only at the end");
  how("--pattern", "what is looked for is a regular expression; groups as $1");
  how("--exact", "capitals are told apart");
}

Status readActs(const CLI::App& command, Arguments& a) {
  std::map<const CLI::Option*, std::size_t> seen;
  std::vector<std::pair<bool, bool>> said;  // of each act, whether --find and --with were
  std::vector<bool> placed;                 // and where
  for (const CLI::Option* option : command.parse_order()) {
    const std::string name = option->get_name();
    const std::size_t n = seen[option]++;
    const auto value = [&] { return n < option->results().size() ? option->results()[n] : std::string(); };
    const bool ofReplace = !a.acts.empty() && a.acts.back().kind == Act::Kind::Replace;
    const auto begin = [&](Act::Kind kind) {
      Act act;
      act.kind = kind;
      a.acts.push_back(std::move(act));
      a.mapFiles.emplace_back();
      said.emplace_back(false, false);
      placed.push_back(false);
    };
    if (name == "--to" || name == "--compute" || name == "--map" || name == "--swap") {
      ITERANDUM_ASSIGN(auto split, splitAtEquals(value(), name));
      begin(name == "--to"        ? Act::Kind::To
            : name == "--compute" ? Act::Kind::Compute
            : name == "--map"     ? Act::Kind::Map
                                  : Act::Kind::Swap);
      Act& act = a.acts.back();
      act.column = std::move(split.first);
      if (act.kind == Act::Kind::Swap) {
        ITERANDUM_ASSIGN(act.with, nameIn(split.second, name));
      } else {
        (name == "--map" ? a.mapFiles.back() : act.text) = std::move(split.second);
      }
    } else if (name == "--clear" || name == "--replace") {
      begin(name == "--clear" ? Act::Kind::Clear : Act::Kind::Replace);
      ITERANDUM_ASSIGN(a.acts.back().column, nameIn(value(), name));
    } else if (name == "--find" || name == "--with") {
      bool ofReplaceOnce = ofReplace;
      if (ofReplace) {
        bool& once = name == "--find" ? said.back().first : said.back().second;
        ofReplaceOnce = !once;
        once = true;
        (name == "--find" ? a.acts.back().text : a.acts.back().with) = value();
      }
      if (!ofReplaceOnce) return missing(name, "--replace");
    } else if (name == "--exact") {
      if (!ofReplace) return missing(name, "--replace");
      a.acts.back().exactCase = true;
    } else if (name == "--whole" || name == "--start" || name == "--end" || name == "--pattern") {
      if (!ofReplace) return missing(name, "--replace");
      if (placed.back()) {
        return fail(ErrorKind::InvalidInput, "only one of --whole, --start, --end and --pattern may be said");
      }
      placed.back() = true;
      a.acts.back().where = name == "--whole"   ? Act::Where::Whole
                            : name == "--start" ? Act::Where::Start
                            : name == "--end"   ? Act::Where::End
                                                : Act::Where::Pattern;
    }
  }
  for (std::size_t i = 0; i < a.acts.size(); ++i) {
    if (a.acts[i].kind != Act::Kind::Replace) continue;
    if (!said[i].first || !said[i].second) {
      return fail(ErrorKind::InvalidInput,
                  "--replace " + a.acts[i].column + " wants " + (said[i].first ? "--with" : "--find") + " behind it");
    }
  }
  if (a.acts.empty()) {
    return fail(ErrorKind::InvalidInput,
                "nothing is to be done: say --to, --clear, --compute, --replace, --map or --swap, once or more");
  }
  return {};
}

}  // namespace iterandum::cli
