//! Who asks, and for whom: the network a request comes from, the address that the application is known by, and guesses slowed down.

use std::{
    net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr},
    str::FromStr,
    sync::Arc,
};

use axum::{
    body::Body,
    extract::{ConnectInfo, Request, State as Extract},
    http::{HeaderMap, HeaderName, HeaderValue, Method, StatusCode, Uri, header},
    middleware::Next,
    response::{IntoResponse, Response},
};
use tower_governor::{
    GovernorError, GovernorLayer,
    governor::{GovernorConfig, GovernorConfigBuilder},
    key_extractor::KeyExtractor,
};

use crate::{StartError, problem::Problem};

/// How the application is reached.
#[derive(Debug, Clone, Default)]
pub struct Reached {
    /// The address in people's browsers; none: only this machine's own names.
    public: Option<Public>,
    /// Proxies whose word on where a request comes from is taken.
    proxies: Vec<Network>,
}

#[derive(Debug, Clone, PartialEq)]
struct Public {
    scheme: String,
    /// With the port where it is no scheme's own.
    authority: String,
}

impl Reached {
    /// From what the command line says. A listener that others reach needs the address that they reach it by.
    pub fn new(listen: &str, public_url: Option<&str>, proxies: &[String], demo: bool) -> Result<Self, StartError> {
        let usage = |text: String| StartError::Usage(text);
        let public = public_url.map(Public::from_str).transpose().map_err(usage)?;
        let local = listen.parse::<SocketAddr>().map_or(listen.starts_with("localhost:"), |a| a.ip().is_loopback());
        if !local && public.is_none() {
            return Err(usage(format!(
                "--listen {listen} is reached by others: say by which address, such as --public-url https://ink.studio.example (it decides which requests are answered, and how the session's cookie is set)"
            )));
        }
        if demo && (!local || public.as_ref().is_some_and(|p| !is_own_name(&p.authority))) {
            return Err(usage("--demo shows passwords to everybody: it is for this machine alone, so it goes with a loopback address only".into()));
        }
        let proxies = proxies.iter().map(|p| p.parse()).collect::<Result<_, String>>().map_err(usage)?;
        Ok(Self { public, proxies })
    }

    /// Whether browsers come by https.
    pub fn secure(&self) -> bool {
        self.public.as_ref().is_some_and(|p| p.scheme == "https")
    }

    /// The session cookie's name: with the prefix that browsers keep to one host, where they come by https.
    pub fn cookie(&self) -> &'static str {
        if self.secure() { "__Host-eddymist" } else { "eddymist" }
    }

    /// Whether a request is for this application by a name that it is known by, and, where it would change something, from its own pages.
    fn refused(&self, request: &Request) -> Option<Problem> {
        let host = request.uri().authority().map(|a| a.as_str()).or_else(|| request.headers().get(header::HOST).and_then(|h| h.to_str().ok()));
        let host = host.unwrap_or_default().to_ascii_lowercase();
        let known = match &self.public {
            Some(p) => host == p.authority || is_own_name(&host),
            None => is_own_name(&host),
        };
        if !known {
            return Some(Problem::new(StatusCode::MISDIRECTED_REQUEST, "this application is not known by that name; open it by the address that it was given"));
        }
        if matches!(*request.method(), Method::GET | Method::HEAD) {
            return None;
        }
        let foreign = || Problem::new(StatusCode::FORBIDDEN, "this request comes from another site's page; nothing was changed");
        match request.headers().get(header::ORIGIN).map(|o| o.to_str().unwrap_or("null").to_ascii_lowercase()) {
            Some(origin) => {
                let public = self.public.as_ref().is_some_and(|p| origin == format!("{}://{}", p.scheme, p.authority) && host == p.authority);
                let own = is_own_name(&host) && origin.split_once("://").is_some_and(|(_, o)| o == host);
                (!public && !own).then(foreign)
            }
            // Browsers say where a request comes from; programs need not.
            None => request.headers().get("sec-fetch-site").is_some_and(|s| !matches!(s.as_bytes(), b"same-origin" | b"none")).then(foreign),
        }
    }

    /// Where a request comes from: the last address that no trusted proxy gave its name to.
    fn client(&self, peer: IpAddr, headers: &HeaderMap) -> IpAddr {
        let trusted = |a: IpAddr| self.proxies.iter().any(|n| n.holds(a));
        let mut at = peer;
        let given: Vec<&str> = headers.get_all("x-forwarded-for").iter().filter_map(|v| v.to_str().ok()).flat_map(|v| v.split(',')).collect();
        for hop in given.iter().rev() {
            if !trusted(at) {
                break;
            }
            let Ok(address) = hop.trim().parse::<IpAddr>() else { break };
            at = address.to_canonical();
        }
        at
    }
}

impl FromStr for Public {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("--public-url {text}: expected an address such as https://ink.studio.example, without a path");
        let uri: Uri = text.parse().map_err(|_| wrong())?;
        let (Some(scheme @ ("http" | "https")), Some(authority)) = (uri.scheme_str(), uri.authority()) else { return Err(wrong()) };
        if !matches!(uri.path(), "" | "/") || uri.query().is_some() || authority.as_str().contains('@') {
            return Err(wrong());
        }
        let port = if scheme == "https" { ":443" } else { ":80" };
        let authority = authority.as_str().to_ascii_lowercase();
        Ok(Self { scheme: scheme.into(), authority: authority.strip_suffix(port).unwrap_or(&authority).to_string() })
    }
}

/// Whether a host is one of this machine's own names, on whatever port.
fn is_own_name(host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(rest) => rest.split(']').next().unwrap_or_default(),
        None => host.rsplit_once(':').map_or(host, |(name, _)| name),
    };
    name == "localhost" || name.parse::<IpAddr>().is_ok_and(|a| a.is_loopback())
}

/// A network, such as 10.0.0.0/8.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Network {
    address: IpAddr,
    bits: u32,
}

impl Network {
    fn holds(&self, a: IpAddr) -> bool {
        cut(a, self.bits).is_some_and(|c| Some(c) == cut(self.address, self.bits)) && a.is_ipv4() == self.address.is_ipv4()
    }
}

impl FromStr for Network {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("--trusted-proxy {text}: expected an address or a network such as 10.0.0.0/8");
        let (address, bits) = text.split_once('/').map_or((text, None), |(a, b)| (a, Some(b)));
        let address: IpAddr = address.parse().map_err(|_| wrong())?;
        let most = if address.is_ipv4() { 32 } else { 128 };
        let bits = bits.map_or(Ok(most), str::parse).ok().filter(|b| *b <= most).ok_or_else(wrong)?;
        Ok(Self { address, bits })
    }
}

/// The first bits of an address.
fn cut(a: IpAddr, bits: u32) -> Option<IpAddr> {
    Some(match a {
        IpAddr::V4(v) => IpAddr::V4(Ipv4Addr::from_bits(v.to_bits() & u32::MAX.checked_shl(32u32.checked_sub(bits)?).unwrap_or(0))),
        IpAddr::V6(v) => IpAddr::V6(Ipv6Addr::from_bits(v.to_bits() & u128::MAX.checked_shl(128u32.checked_sub(bits)?).unwrap_or(0))),
    })
}

/// The address that a request comes from; it lies with the request.
#[derive(Debug, Clone, Copy)]
pub struct Client(pub IpAddr);

impl Client {
    /// Its network: what one stranger is given to choose from counts as one (IPv4 /24, IPv6 /64).
    pub fn network(self) -> String {
        let bits = if self.0.is_ipv4() { 24 } else { 64 };
        cut(self.0, bits).map_or_else(String::new, |a| format!("{a}/{bits}"))
    }
}

/// Before everything: where a request comes from, and whether it is for us.
pub async fn known(Extract(reached): Extract<Arc<Reached>>, mut request: Request, next: Next) -> Response {
    let peer = request.extensions().get::<ConnectInfo<SocketAddr>>().map_or(IpAddr::V4(Ipv4Addr::LOCALHOST), |c| c.0.ip().to_canonical());
    let client = Client(reached.client(peer, request.headers()));
    request.extensions_mut().insert(client);
    if let Some(problem) = reached.refused(&request) {
        tracing::warn!(client = %client.0, path = request.uri().path(), "refused: {}", problem.detail);
        let mut response = problem.into_response();
        response.extensions_mut().insert(client);
        return response;
    }
    let mut response = next.run(request).await;
    // For the log, which stands around this.
    response.extensions_mut().insert(client);
    if reached.secure() {
        let year = HeaderValue::from_static("max-age=31536000; includeSubDomains");
        response.headers_mut().insert(HeaderName::from_static("strict-transport-security"), year);
    }
    response
}

/// Slows guesses down by the network that they come from: thirty at once, then two a second.
#[derive(Clone)]
pub struct GuessLimit(Arc<GovernorConfig<ByNetwork, governor::middleware::NoOpMiddleware<governor::clock::QuantaInstant>>>);

impl Default for GuessLimit {
    fn default() -> Self {
        let mut config = GovernorConfigBuilder::default().key_extractor(ByNetwork);
        config.per_millisecond(500).burst_size(30);
        Self(Arc::new(config.finish().unwrap_or_else(|| unreachable!("neither number is zero"))))
    }
}

impl GuessLimit {
    pub fn layer(&self) -> GovernorLayer<ByNetwork, governor::middleware::NoOpMiddleware<governor::clock::QuantaInstant>, Body> {
        GovernorLayer::new(self.0.clone())
    }
}

/// By the network of the client.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ByNetwork;

impl KeyExtractor for ByNetwork {
    type Key = String;

    fn extract<T>(&self, request: &axum::http::Request<T>) -> Result<String, GovernorError> {
        Ok(request.extensions().get::<Client>().map_or_else(String::new, |c| c.network()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn reached(public: &str, proxies: &[&str]) -> Reached {
        Reached::new("0.0.0.0:80", Some(public), &proxies.iter().map(|p| p.to_string()).collect::<Vec<_>>(), false).expect("fine")
    }

    fn asked(method: &str, headers: &[(&str, &str)]) -> Request {
        let mut r = axum::http::Request::builder().method(method).uri("/api/v1/session");
        for (k, v) in headers {
            r = r.header(*k, *v);
        }
        r.body(Body::empty()).expect("a request")
    }

    #[test]
    fn a_request_is_for_us_by_our_names_and_from_our_pages() {
        let ours = reached("https://ink.studio.example", &[]);
        let status = |r: &Reached, m: &str, h: &[(&str, &str)]| r.refused(&asked(m, h)).map(|p| p.status);
        assert_eq!(status(&ours, "GET", &[("host", "ink.studio.example")]), None);
        assert_eq!(status(&ours, "GET", &[("host", "other.example")]), Some(421));
        let own = ("origin", "https://ink.studio.example");
        assert_eq!(status(&ours, "POST", &[("host", "ink.studio.example"), own]), None);
        for foreign in ["http://ink.studio.example", "https://ink.studio.example.evil.example", "null", "https://127.0.0.1"] {
            assert_eq!(status(&ours, "POST", &[("host", "ink.studio.example"), ("origin", foreign)]), Some(403), "{foreign}");
        }
        assert_eq!(status(&ours, "DELETE", &[("host", "ink.studio.example"), ("sec-fetch-site", "cross-site")]), Some(403));
        let here = Reached::new("127.0.0.1:8380", None, &[], true).expect("fine");
        assert_eq!(status(&here, "POST", &[("host", "127.0.0.1:8380"), ("origin", "http://127.0.0.1:8380")]), None);
        // Another program of this machine is another site, and so is a name that was bent to this machine.
        assert_eq!(status(&here, "POST", &[("host", "127.0.0.1:8380"), ("origin", "http://127.0.0.1:9000")]), Some(403));
        assert_eq!(status(&here, "GET", &[("host", "rebound.example:8380")]), Some(421));
        assert_eq!(status(&here, "GET", &[]), Some(421));
    }

    #[test]
    fn what_others_reach_needs_its_address_and_shows_no_demo() {
        let new = |listen, url, demo| Reached::new(listen, url, &[], demo);
        assert!(matches!(new("0.0.0.0:8380", None, false), Err(StartError::Usage(_))));
        assert!(matches!(new("0.0.0.0:8380", Some("https://ink.example"), true), Err(StartError::Usage(_))));
        assert!(matches!(new("127.0.0.1:8380", Some("https://ink.example"), true), Err(StartError::Usage(_))));
        assert!(new("[::1]:8380", None, true).is_ok());
        for wrong in ["ink.example", "ftp://ink.example", "https://ink.example/a", "https://u@ink.example", ""] {
            assert!(new("127.0.0.1:8380", Some(wrong), false).is_err(), "{wrong}");
        }
        assert_eq!(reached("https://ink.example:443", &[]).public, reached("HTTPS://INK.example", &[]).public);
    }

    #[test]
    fn only_a_trusted_proxy_says_where_a_request_comes_from() {
        let r = reached("https://ink.example", &["10.0.0.0/8", "fd00::/8"]);
        let from = |peer: &str, given: &[&str]| {
            let mut headers = HeaderMap::new();
            given.iter().for_each(|g| {
                headers.append("x-forwarded-for", g.parse().expect("a value"));
            });
            r.client(peer.parse().expect("an address"), &headers).to_string()
        };
        assert_eq!(from("203.0.113.9", &["198.51.100.1"]), "203.0.113.9");
        assert_eq!(from("10.1.2.3", &["198.51.100.1"]), "198.51.100.1");
        // What the client itself wrote before the proxy is not believed.
        assert_eq!(from("10.1.2.3", &["1.1.1.1, 198.51.100.1"]), "198.51.100.1");
        assert_eq!(from("10.1.2.3", &["1.1.1.1", "198.51.100.1, 10.9.9.9"]), "198.51.100.1");
        assert_eq!(from("fd00::1", &["2001:db8::7"]), "2001:db8::7");
        assert_eq!(from("10.1.2.3", &["garbage"]), "10.1.2.3");
    }

    #[test]
    fn a_network_is_one_stranger() {
        let of = |a: &str| Client(a.parse().expect("an address")).network();
        assert_eq!(of("203.0.113.9"), of("203.0.113.200"));
        assert_ne!(of("203.0.113.9"), of("203.0.114.9"));
        assert_eq!(of("2001:db8:1:2:aaaa::1"), of("2001:db8:1:2::7"));
        assert_ne!(of("2001:db8:1:2::1"), of("2001:db8:1:3::1"));
    }
}
