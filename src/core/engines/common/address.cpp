#include "core/engines/common/address.h"

#include <charconv>
#include <vector>

namespace iterandum {
namespace {

// Where a secret stands in an address.
struct Place {
  std::size_t begin = 0;
  std::size_t end = 0;
  std::size_t cutFrom = 0;  // what goes with it when it is left out
};

bool isSecretName(std::string_view name) {
  std::string small;
  for (const char c : percentDecoded(name)) small += static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
  return small == "password" || small == "sslpassword" || small == "passwd" || small == "pwd";
}

// Where user and password end, as libpq finds it (fe-connect.c, conninfo_uri_parse_options): the @ before the first
// slash, whatever stands before it. A password may hold an @ by mistake; the last one ends it.
std::size_t credentialsEnd(std::string_view address, std::size_t authority) {
  const std::size_t slash = std::min(address.find('/', authority), address.size());
  const std::size_t at = address.substr(authority, slash - authority).rfind('@');
  return at == std::string_view::npos ? at : authority + at;
}

// A password with a slash in it is no well-formed address; what stands for it is hidden all the same.
std::size_t credentialsEndByMistake(std::string_view address, std::size_t authority) {
  const std::size_t colon = address.find(':', authority);
  const std::size_t slash = address.find('/', authority);
  const std::size_t at = address.find('@', authority);
  if (colon == std::string_view::npos || at == std::string_view::npos || at < colon || slash < colon)
    return std::string_view::npos;
  const std::string_view port = address.substr(colon + 1, slash - colon - 1);
  const bool isPort = !port.empty() && port.find_first_not_of("0123456789,:") == std::string_view::npos;
  const std::size_t query = std::min(address.find('?', authority), address.size());
  return isPort && at > query ? std::string_view::npos : at;
}

void findInQuery(std::string_view address, std::size_t from, std::vector<Place>& out) {
  from = address.find('?', from);
  while (from != std::string_view::npos && from < address.size()) {
    const std::size_t end = std::min(address.find('&', from + 1), address.size());
    const std::size_t equals = address.find('=', from + 1);
    if (equals < end && isSecretName(address.substr(from + 1, equals - from - 1)))
      out.push_back({equals + 1, end, from});
    from = end < address.size() ? end : std::string_view::npos;
  }
}

// key=value strings, as libpq takes them too: values may stand in quotes, with backslashes, and blanks around the =.
void findInKeywords(std::string_view text, std::vector<Place>& out) {
  const auto isBlank = [](char c) { return c == ' ' || c == '\t' || c == '\n'; };
  for (std::size_t equals = text.find('='); equals != std::string_view::npos; equals = text.find('=', equals + 1)) {
    std::size_t end = equals;
    while (end > 0 && isBlank(text[end - 1])) --end;
    std::size_t begin = end;
    while (begin > 0 && !isBlank(text[begin - 1]) && text[begin - 1] != ';' && text[begin - 1] != '?' &&
           text[begin - 1] != '&')
      --begin;
    if (!isSecretName(text.substr(begin, end - begin))) continue;
    std::size_t from = equals + 1;
    while (from < text.size() && isBlank(text[from])) ++from;
    std::size_t to = from;
    if (to < text.size() && (text[to] == '\'' || text[to] == '"')) {
      const char quote = text[to];
      for (++to; to < text.size() && text[to] != quote; ++to) to += text[to] == '\\' ? 1 : 0;
      to = std::min(to + 1, text.size());
    } else {
      while (to < text.size() && !isBlank(text[to]) && text[to] != ';' && text[to] != '&')
        to += text[to] == '\\' ? 2 : 1;
      to = std::min(to, text.size());
    }
    out.push_back({from, to, begin});
  }
}

std::vector<Place> secretsIn(std::string_view address) {
  std::vector<Place> out;
  const std::size_t scheme = address.find("://");
  if (address.starts_with("sqlite:")) return out;  // a path, literally
  if (scheme == std::string_view::npos) {
    findInKeywords(address, out);
    return out;
  }
  const std::size_t authority = scheme + 3;
  std::size_t at = credentialsEnd(address, authority);
  if (at == std::string_view::npos) at = credentialsEndByMistake(address, authority);
  if (at != std::string_view::npos) {
    const std::size_t colon = address.find(':', authority);
    if (colon < at) out.push_back({colon + 1, at, colon});
  }
  findInQuery(address, at == std::string_view::npos ? authority : at, out);
  return out;
}

void replaceAll(std::string& text, std::string_view what, std::string_view with) {
  if (what.empty()) return;
  for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + with.size())) {
    text.replace(at, what.size(), with);
  }
}

}  // namespace

std::string percentDecoded(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    unsigned value = 0;
    if (text[i] == '%' && i + 2 < text.size()) {
      const auto r = std::from_chars(text.data() + i + 1, text.data() + i + 3, value, 16);
      if (r.ec == std::errc() && r.ptr == text.data() + i + 3) {
        out += static_cast<char>(value);
        i += 2;
        continue;
      }
    }
    out += text[i];
  }
  return out;
}

std::string withoutPassword(std::string_view address) {
  std::string out(address);
  const std::vector<Place> places = secretsIn(address);
  if (address.find("://") == std::string_view::npos) return withoutSecrets(std::move(out), address);
  for (auto it = places.rbegin(); it != places.rend(); ++it) out.erase(it->cutFrom, it->end - it->cutFrom);
  // The first parameter may have gone: the next one opens the query then.
  if (out.find('?') == std::string::npos) {
    const std::size_t amp = out.find('&', out.find("://") + 3);
    if (amp != std::string::npos) out[amp] = '?';
  }
  return out;
}

std::string passwordIn(std::string_view address) {
  const std::vector<Place> places = secretsIn(address);
  return places.empty() ? std::string()
                        : percentDecoded(address.substr(places[0].begin, places[0].end - places[0].begin));
}

std::string withoutSecrets(std::string message, std::string_view address) {
  for (const Place& place : secretsIn(address)) {
    const std::string_view written = address.substr(place.begin, place.end - place.begin);
    replaceAll(message, written, "***");
    replaceAll(message, percentDecoded(written), "***");
  }
  return message;
}

namespace {

// Takes a host and its port from the beginning.
Result<ServerHost> takeHost(std::string_view& rest) {
  ServerHost out;
  if (rest.starts_with('[')) {
    const std::size_t close = rest.find(']');
    if (close == std::string_view::npos) return fail(ErrorKind::CannotOpen, "the address has a [ without its ]");
    out.name = rest.substr(1, close - 1);
    rest = rest.substr(close + 1);
  } else {
    const std::size_t end = std::min(rest.find_first_of(":,"), rest.size());
    out.name = percentDecoded(rest.substr(0, end));
    rest = rest.substr(end);
  }
  if (!rest.starts_with(':')) return out;
  const std::size_t end = std::min(rest.find(','), rest.size());
  out.port = rest.substr(1, end - 1);
  rest = rest.substr(end);
  unsigned port = 0;
  const auto r = std::from_chars(out.port.data(), out.port.data() + out.port.size(), port);
  if (r.ec != std::errc() || r.ptr != out.port.data() + out.port.size() || port == 0 || port > 65535) {
    return fail(ErrorKind::CannotOpen, "the port in the address is no number from 1 to 65535");
  }
  return out;
}

}  // namespace

Result<ServerAddress> serverAddress(std::string_view address) {
  ServerAddress out;
  const std::size_t authority = address.find("://") + 3;
  std::string_view rest = address.substr(authority);
  std::string_view query;
  if (const std::size_t end = credentialsEnd(address, authority); end != std::string_view::npos) {
    const std::string_view who = address.substr(authority, end - authority);
    rest = address.substr(end + 1);
    const std::size_t colon = who.find(':');
    out.user = percentDecoded(who.substr(0, colon));
    if (colon != std::string_view::npos) out.password = percentDecoded(who.substr(colon + 1));
  }
  if (const std::size_t at = rest.find('?'); at != std::string_view::npos) {
    query = rest.substr(at + 1);
    rest = rest.substr(0, at);
  }
  if (const std::size_t slash = rest.find('/'); slash != std::string_view::npos) {
    out.database = percentDecoded(rest.substr(slash + 1));
    rest = rest.substr(0, slash);
  }
  while (true) {
    ITERANDUM_ASSIGN(ServerHost host, takeHost(rest));
    out.hosts.push_back(std::move(host));
    if (!rest.starts_with(',')) break;
    rest = rest.substr(1);
  }
  while (!query.empty()) {
    const std::size_t end = std::min(query.find('&'), query.size());
    const std::string_view part = query.substr(0, end);
    const std::size_t equals = part.find('=');
    if (equals == std::string_view::npos) {
      return fail(ErrorKind::CannotOpen, "a parameter of the address is not written as name=value");
    }
    out.parameters.emplace_back(percentDecoded(part.substr(0, equals)), percentDecoded(part.substr(equals + 1)));
    query = query.substr(std::min(end + 1, query.size()));
  }
  return out;
}

}  // namespace iterandum
