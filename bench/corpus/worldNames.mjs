/** Common names of many countries, written down for this corpus; they come from no generator. */
const list = (text) => text.trim().split(/\s*,\s*|\s*\n\s*/);
export const WORLD_NAMES = {
  train: {
    given:
      list(`James, Mary, Robert, Patricia, John, Jennifer, Michael, Linda, David, Elizabeth, Mohammed, Fatima, Ahmed, Aisha, Wei, Li, Hiroshi, Yuki, Priya, Rahul, Carlos, Lucía, Pierre, Camille,
      Hans, Ursula, Lars, Astrid, Piotr, Agnieszka, Dmitri, Olga, Giulia, Marco, João, Beatriz, Kwame, Ama, Nguyen, Linh`),
    family:
      list(`Smith, Johnson, Williams, Brown, Jones, Garcia, Miller, Davis, Khan, Ali, Hassan, Wang, Chen, Tanaka, Sato, Sharma, Patel, Rodríguez, Fernández, Dubois, Moreau, Müller, Schneider, Hansen, Olsen,
      Kowalski, Nowak, Ivanov, Petrov, Rossi, Ferrari, Silva, Santos, Mensah, Owusu, Tran, Pham`),
  },
  test: {
    given:
      list(`William, Barbara, Richard, Susan, Joseph, Jessica, Thomas, Sarah, Charles, Karen, Omar, Layla, Yusuf, Zainab, Ming, Xiu, Kenji, Sakura, Ananya, Arjun, Miguel, Valentina, Antoine, Chloé,
      Jürgen, Sabine, Magnus, Ingrid, Tomasz, Katarzyna, Sergei, Natasha, Francesca, Alessandro, Rui, Inês, Chidi, Ngozi, Thandiwe, Sipho, Siobhan, Niamh, Gareth, Rhiannon`),
    family:
      list(`Wilson, Anderson, Taylor, Moore, Jackson, Martin, Thompson, White, Ahmad, Hussein, Rahman, Zhang, Liu, Suzuki, Watanabe, Gupta, Singh, Martínez, López, Laurent, Lefebvre, Schmidt, Fischer, Nilsson,
      Johansson, Wiśniewski, Kamiński, Smirnov, Kuznetsov, Bianchi, Romano, Pereira, Oliveira, Okafor, Adeyemi, Nkosi, Dlamini, O'Brien, Murphy, Evans, Hughes, Le, Vo`),
  },
};
